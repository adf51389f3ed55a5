// An answer that is our fault, or none at all, leaves the page as it is: what was typed stays, and a bar says what to do.
const bar = document.getElementById("lost");
const say = (title, text) => {
  bar.querySelector("b").textContent = title;
  bar.querySelector("span").textContent = text;
  bar.hidden = false;
};

document.addEventListener("htmx:response:error", ({ detail: { ctx } }) => {
  if (ctx.response.status < 500) return;
  const page = new DOMParser().parseFromString(ctx.text, "text/html");
  const title = page.querySelector("h1")?.textContent ?? "Something broke";
  const text =
    page.querySelector("[data-kept]")?.textContent ?? "What you typed is still here. Wait a moment and try again.";
  say(title, text);
});
document.addEventListener("htmx:error", ({ detail: { ctx } }) => {
  if (ctx && !ctx.response)
    say("No answer", "The connection or the app is away. What you typed is still here: try again when it is back.");
});
document.addEventListener("htmx:after:request", ({ detail: { ctx } }) => {
  if (ctx.response?.status < 500) bar.hidden = true;
});
bar.querySelector("button").addEventListener("click", () => {
  bar.hidden = true;
});
