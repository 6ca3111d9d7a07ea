// Starts each behaviour the page asks for. Nothing here computes: the server answers, these put the answer in place.
import { startLive } from "./live.js";
import { startPull } from "./pull.js";
import { startPointing } from "./pointing.js";
import { startKeys } from "./keys.js";
import { startRows } from "./rows.js";
import { startClosing } from "./closing.js";

startLive();
startPull();
startPointing();
startKeys();
startRows();
startClosing();
