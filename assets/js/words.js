// What scripts say, in the language of the page: English stands in the scripts and is the key of every translation.
const said = JSON.parse(document.getElementById("words")?.dataset.words ?? "{}");
window.inWords = (english, values = {}) => (said[english] || english).replace(/\{(\w+)\}/g, (_, name) => values[name]);
