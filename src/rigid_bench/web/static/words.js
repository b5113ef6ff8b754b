// The sentences of our scripts in the language of the page: t("Saved by {who}.", { who }) fills its gaps.
{
  const known = JSON.parse(document.getElementById("script-words")?.textContent || "{}");
  globalThis.t = (text, values = {}) => {
    const sentence = known[text] ?? text;
    return sentence.replace(/\{(\w+)\}/g, (gap, name) => values[name] ?? gap);
  };
}
