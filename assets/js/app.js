// Every script of the pages, in the order they start; built into one file by `./crate assets`.
import "./words.js";
import "./turns.js";
import "./cells.js";
import "./keylist.js";
import "./keys.js";
import "./focus.js";
import "./tape.js";
import "./days.js";
import "./carry.js";
import "./choose.js";
import "./drafts.js";
import "./typed.js";
import "./faults.js";
import "./lost.js";
import "./awake.js";
import "./bench.js";
import "./label.js";
