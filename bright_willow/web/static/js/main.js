// Starts each behaviour the page asks for. Nothing here computes: the server answers, these put the answer in place.
import { startLive } from "./live.js";
import { restore, startDrafts } from "./drafts.js";
import { keepLeft } from "./keeping.js";
import { startPull } from "./pull.js";
import { startPointing } from "./pointing.js";
import { startKeys } from "./keys.js";
import { startRows } from "./rows.js";
import { startClosing } from "./closing.js";
import { startQuick } from "./quick.js";
import { startBoard } from "./board.js";
import { showStage } from "./places.js";
import { startFocus } from "./focus.js";
import { startTheme } from "./theme.js";

startLive();
startDrafts().then(() => { restore(); keepLeft(); });
startPull();
startPointing();
startKeys();
startRows();
startClosing();
startQuick();
startBoard();
startFocus();
showStage();
startTheme();
// What only one kind of page needs is fetched only there.
if (document.querySelector("[data-run]")) (await import("./bench.js")).startBench();
if (document.querySelector("[data-picture-board]")) (await import("./photo.js")).startPhoto();
for (const { type, target } of window.early?.done() ?? []) target.dispatchEvent(new Event(type, { bubbles: true }));
if (location.hash.length > 1) document.getElementById(location.hash.slice(1))?.setAttribute("open", "");  // a fold that is linked to
