// What the list of a week costs, asked for once the week stands there: a meal is changed, and what that costs shows at once,
// in the route beside the week, on a phone in the week’s head.
const known = {}; // by the list’s address: what it costs, and what it cost before the last change

async function ask() {
  const place = document.getElementById("listcost");
  if (!place || place.textContent) return;
  const { list } = place.dataset;
  try {
    const answer = await fetch(list, { redirect: "error" });
    const cost = answer.status === 200 ? await answer.text() : "";
    if (!cost || !place.isConnected) return;
    const { now, was } = known[list] ?? {};
    known[list] = now === cost ? { now, was } : { now: cost, was: now };
    tell(place, known[list]);
  } catch {
    // no connection: the week says so itself
  }
}

function tell(place, { now: cost, was }) {
  const said = was ? inWords("list {cost}, was {was}", { cost, was }) : inWords("list {cost}", { cost });
  place.textContent = said;
  const beside = document.querySelector('.route a[href="/shop"] span');
  if (beside) beside.textContent = said;
}

document.addEventListener("htmx:after:swap", ask);
ask();
