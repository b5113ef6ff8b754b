// The few lines of our own that run in the browser. Alpine's CSP build takes components by name.
document.addEventListener("alpine:init", () => {
  Alpine.data("files", () => ({
    lines: [],
    mood: "",
    sending: false,
    get word() {
      return this.sending ? "Sending …" : "See what is in them";
    },
    list(event) {
      this.lines = Array.from(event.target.files, (file) => `${file.name}, ${Math.ceil(file.size / 1024)} kB`);
    },
    over() {
      this.mood = "drop-over";
    },
    away() {
      this.mood = "";
    },
    send() {
      this.sending = true;
    },
    refused() {
      this.sending = false;
    },
  }));
});
// A page that the browser shows again from its memory (the back key) is not sending any more.
window.addEventListener("pageshow", (event) => {
  if (event.persisted) window.location.reload();
});
