// The cells of the week's grid, for every script that walks or carries: which there are, whose place, which meal.
// A cell says neither on the page: its meal stands in its address, its place is its column's slot, its eater, its day.
const CELLS = ".cells .slot > a";

const mealOf = (cell) => (cell?.matches(CELLS) && new URLSearchParams(cell.search).get("box")) || "";

// Where a cell stands: its day’s row, which eater’s block in it, which column of the block.
function placeOf(cell) {
  const row = cell.closest(".dayrow"),
    slot = cell.parentElement;
  const block = [...row.querySelectorAll(".eaterblock")].indexOf(cell.closest(".eaterblock"));
  return { row, block, column: [...slot.parentElement.children].indexOf(slot) };
}

function keyOf(cell) {
  const { row, block, column } = placeOf(cell);
  const heads = document.querySelectorAll(".week .slotheads")[block];
  const slot = heads.querySelectorAll("[data-slot]")[column];
  return [heads.dataset.eater, slot.dataset.slot, row.id.slice("day-".length)].join(".");
}

// A slot is found again by its place, whatever stands in it by then.
function selectorOf(cell) {
  const { row, block, column } = placeOf(cell);
  return `#${CSS.escape(row.id)} .eaterblock:nth-of-type(${block + 2}) .slot:nth-child(${column + 1}) > a`;
}

const meals = () => [...document.querySelectorAll(CELLS)].filter(mealOf);

// Grids that are one stop of the Tab key, with arrows inside, and where a grid is entered first.
const GRIDS = [
  { holder: ".week", members: `${CELLS}, .beams a`, first: ".dayrow.today a" },
  { holder: ".pots", members: ".pot", first: ".next" },
];

const inGrid = ({ holder, members, first }) =>
  [...document.querySelectorAll(holder)].map((grid) => ({ members: [...grid.querySelectorAll(members)], first }));

globalThis.cells = {
  CELLS,
  grids: () => GRIDS.flatMap(inGrid).filter(({ members }) => members.length),
  gridOf: (element) => cells.grids().find(({ members }) => members.includes(element)),
  keyOf,
  selectorOf,
  mealOf,
  nameOf: (box) => box.querySelector(".name").textContent,
  mealAt: (target) => {
    const cell = target.closest?.(CELLS);
    return mealOf(cell) ? cell : null;
  },
  meals,
  withMeal: (meal) => meals().find((box) => mealOf(box) === meal),
};

// A long name is cut in its box: the pointer reads it whole.
document.addEventListener("pointerover", (event) => {
  const box = cells.mealAt(event.target);
  if (box && !box.title) box.title = cells.nameOf(box);
});
