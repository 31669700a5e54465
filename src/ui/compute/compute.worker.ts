import "../no-eval";
import { expose } from "comlink";
import { askInSteps } from "./steps";

const worker = { ask: askInSteps };
/** What the worker offers to the page. */
export type ComputeWorker = typeof worker;
expose(worker);
