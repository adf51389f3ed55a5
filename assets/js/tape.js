// The tape beside the bench; on a phone a sheet that opens with what was tapped, and closes by a tap.
const phone = matchMedia("(max-width: 900px)");
const root = document.documentElement;
const app = () => document.getElementById("app");
const isOpen = () =>
  phone.matches ? app().classList.contains("sheet-open") : !root.classList.contains("tape-closed");

function remember(closed) {
  try {
    localStorage.setItem("tape", closed ? "closed" : "open");
  } catch {
    /* private mode: forget it */
  }
}

function toggleTape() {
  const tape = document.getElementById("tape");
  if (!tape) return;
  const opens = !isOpen();
  if (phone.matches) app().classList.toggle("sheet-open", opens);
  else {
    root.classList.toggle("tape-closed", !opens);
    remember(!opens);
  }
  say();
  if (opens) tape.querySelector(".close")?.focus({ preventScroll: true });
  else (document.querySelector('.slot > [aria-current="true"]') ?? document.querySelector(".tapetab"))?.focus();
}

function say() {
  for (const button of document.querySelectorAll(".tapetab")) button.setAttribute("aria-expanded", String(isOpen()));
}

try {
  root.classList.toggle("tape-closed", localStorage.getItem("tape") === "closed");
} catch {
  /* stays open */
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-tape-toggle]")) toggleTape();
});
document.addEventListener("tape:toggle", toggleTape);
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && phone.matches && app().classList.contains("sheet-open")) toggleTape();
});
document.addEventListener("htmx:after:swap", say);
phone.addEventListener("change", say);
say();
