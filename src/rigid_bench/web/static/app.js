// The few lines of our own that run in the browser. Alpine's CSP build takes components by name.
document.addEventListener("alpine:init", () => {
  Alpine.data("files", () => ({
    lines: [],
    mood: "",
    sending: false,
    share: 0,
    again: 0,
    get word() {
      return this.sending ? t("Sending …") : t("See what is in them");
    },
    get isUnderWay() {
      return this.sending && this.share > 0;
    },
    progress(event) {
      if (event.detail.lengthComputable) this.share = Math.round(100 * event.detail.loaded / event.detail.total);
    },
    // the files that were chosen stay chosen: they are sent again as soon as there is a connection
    lost() {
      window.clearTimeout(this.again);
      this.again = window.setTimeout(() => this.$root.requestSubmit(), 4000);
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
      window.clearTimeout(this.again);
      this.sending = true;
      this.share = 0;
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
