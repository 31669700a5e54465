/** Running trials: what is set next, results as they are typed beside the machine, and rigs that run by themselves. */

export { rigNamed, rigsFor, runRig, waiting } from "../rigs";
export { measure, type Rig, shown } from "../rigs/rig";
export { inRunOrder, nextToRun, type SettingChange, settingChanges, toSet } from "./changes";
export { doubtOf, type LikelyRanges, likelyRanges } from "./doubt";
export { type BenchEntry, benchEntry, entryEdits, standingAt, trialOf } from "./entry";
export { forBench } from "./for-bench";
