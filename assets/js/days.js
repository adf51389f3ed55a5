// The week on a phone: one day at a time, by swipe or by the strip of days; all eaters or one of them.
const phone = matchMedia("(max-width: 900px)");
const strip = () => document.querySelector(".daystrip");
const pages = () => [...document.querySelectorAll(".dayrow")];

function show(row, smooth) {
  const holder = row?.closest(".weekscroll");
  if (holder) holder.scrollTo({ left: row.offsetLeft - holder.offsetLeft, behavior: smooth ? "smooth" : "instant" });
}

function mark() {
  const holder = document.querySelector(".weekscroll");
  if (!holder || !strip()) return;
  const at = pages().findIndex((row) => row.offsetLeft - holder.offsetLeft + row.offsetWidth / 2 > holder.scrollLeft);
  [...strip().querySelectorAll("a")].forEach((link, n) => {
    if (n === at) link.setAttribute("aria-current", "date");
    else link.removeAttribute("aria-current");
  });
}

document.addEventListener("click", (event) => {
  const day = event.target.closest?.(".daystrip a");
  if (day) {
    event.preventDefault();
    show(document.querySelector(day.getAttribute("href")), true);
  }
  const who = event.target.closest?.("[data-only]");
  if (who) {
    only(who.dataset.only);
    try {
      sessionStorage.setItem("only", who.dataset.only);
    } catch {
      /* private */
    }
  }
});

const EVERYBODY = "-1";
function only(eater) {
  const buttons = [...document.querySelectorAll("[data-only]")];
  const known = buttons.some((b) => b.dataset.only === eater) ? eater : EVERYBODY;
  for (const button of buttons) button.setAttribute("aria-pressed", String(button.dataset.only === known));
  for (const row of pages())
    row
      .querySelectorAll(".eaterblock")
      .forEach((block, n) => block.classList.toggle("elsewhere", known !== EVERYBODY && String(n) !== known));
}

let started = "";
function start() {
  const holder = document.querySelector(".weekscroll");
  if (!holder) return;
  try {
    only(sessionStorage.getItem("only") ?? EVERYBODY);
  } catch {
    /* private */
  }
  holder.onscroll = mark;
  const chosen = document.querySelector(".slot.here, .beams .here")?.closest(".dayrow");
  if (phone.matches && (chosen || started !== location.pathname))
    show(chosen ?? document.querySelector(".dayrow.today") ?? pages()[0], false);
  if (phone.matches && chosen && document.querySelector(".sheet-open"))
    document.querySelector(".slot.here, .beams .here").scrollIntoView({ block: "start", inline: "nearest" });
  started = location.pathname;
  mark();
}

document.addEventListener("htmx:after:swap", start);
phone.addEventListener("change", start);
start();
