// A keyboard-type scanner: eight or more digits faster than anybody types, then Enter. Wherever the cursor is, unless it
// stands in a field for barcodes or in a finder, the scan goes to the food; a digit typed by hand walks the route.
const FAST_MS = 45, SHORTEST = 8;
let digits = "", last = 0, pending = 0;

const takesScans = (element) => element?.matches?.('[name="barcode"], [data-finder]');

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const now = event.timeStamp, isFast = now - last < FAST_MS;
  if (/^[0-9]$/.test(event.key)) {
    digits = isFast ? digits + event.key : event.key;
    last = now;
    if (digits.length > 1) clearTimeout(pending);
    return;
  }
  if (event.key === "Enter" && isFast && digits.length >= SHORTEST && !takesScans(event.target)) {
    event.preventDefault();
    event.stopImmediatePropagation();
    const field = event.target;
    if (field.matches?.("input") && field.value.endsWith(digits)) field.value = field.value.slice(0, -digits.length);
    location.assign(`/foods/scan?code=${digits}`);
  }
  digits = "";
}, true);

// For keys.js: a lone digit means a stage only once it is clear that no second one follows at a scanner's pace.
export function loneDigit(act) {
  clearTimeout(pending);
  pending = setTimeout(act, FAST_MS);
}
