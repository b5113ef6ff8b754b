// Passkeys: the browser asks its device; what it answers is checked on the server. Forms without it stay hidden.
(() => {
  const knows = window.PublicKeyCredential?.parseCreationOptionsFromJSON;
  if (!knows) return;

  const ask = async (address, form) => {
    const answer = await fetch(address, {
      method: "POST", body: new URLSearchParams(new FormData(form)), headers: { accept: "application/json" },
    });
    const said = await answer.json();
    if (!answer.ok) throw new Error(`${said.problem}. ${said.next_step}`);
    return said;
  };

  const credentialFor = async (kind, options) => kind === "create"
    ? navigator.credentials.create({ publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(options) })
    : navigator.credentials.get({ publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(options) });

  for (const form of document.querySelectorAll("form[data-passkey]")) {
    form.hidden = false;
    form.addEventListener("submit", async (event) => {
      event.preventDefault();
      const status = form.querySelector("[role=status]");
      status.textContent = "";
      try {
        const credential = await credentialFor(form.dataset.passkey, await ask(form.dataset.begin, form));
        let field = form.elements.namedItem("credential");
        if (!field) {
          field = Object.assign(document.createElement("input"), { type: "hidden", name: "credential" });
          form.append(field);
        }
        field.value = JSON.stringify(credential.toJSON());
        window.location.assign((await ask(form.action, form)).go_to);
      } catch (error) {
        // broken off by the person, or refused
        status.textContent = error.name === "NotAllowedError" ? t("It was broken off.") : error.message;
      }
    });
  }
})();
