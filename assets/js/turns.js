// One page at a time: what was asked for last is what is shown, however late an earlier answer comes. Writes are sent
// in the order they were made, each after the one before it has arrived, so that none is answered with an older week.
let latest = null;
let pages = 0; // how many were asked for: what asks again and again belongs to the one it was on

const asksAgain = (ctx) => /^(every|load)\b/.test(ctx.sourceElement?.getAttribute?.("hx-trigger") ?? "");

document.addEventListener("htmx:before:request", ({ detail: { ctx } }) => {
  // What asks by itself while somebody is already on the way elsewhere is of the page that is being left.
  const isLeaving = latest && !latest.hasCome;
  const asksByItself = asksAgain(ctx) && ctx.request.method === "GET";
  if (ctx.target?.id !== "app" || (isLeaving && asksByItself)) {
    ctx.page = isLeaving && asksByItself ? pages - 1 : pages;
    return;
  }
  pages += 1;
  ctx.page = pages;
  const before = latest;
  latest = ctx;
  ctx.arrived = new Promise((resolve) => {
    ctx.arrive = resolve;
  });
  if (!before) return;
  before.isOvertaken = true;
  if (ctx.request.method === "GET") return;
  const send = ctx.fetch;
  ctx.fetch = async (...asked) => {
    await before.arrived;
    return send(...asked);
  };
});

document.addEventListener("htmx:before:response", (event) => {
  const { ctx } = event.detail;
  const isOfAnother = (ctx.page ?? 0) !== pages; // without a page it was asked before this script stood: of the first
  if (ctx.isOvertaken || (asksAgain(ctx) && isOfAnother)) event.preventDefault();
  else ctx.hasCome = true;
});

document.addEventListener("htmx:finally:request", ({ detail: { ctx } }) => {
  ctx.arrive?.();
  if (latest === ctx) latest = null;
});
