import { type Edit, edit, joinable, opensSetup, type Study, setupEdits, type Trial } from "@/core/study";
import { type Column, nameOf, pathOf } from "./columns";

/** What the menu of a trial calls. */
export interface TrialActs {
  set(edits: Edit[], what: string): void;
  leaveOut(trial: Trial): void;
  /** Opens the history of what is kept there. */
  lookBack(path: readonly string[]): void;
}

/** What can be done with a trial. */
export const trialMenu = (
  study: Study,
  trial: Trial,
  /** The column with the cursor. */
  column: Column,
  { set, leaveOut, lookBack }: TrialActs,
) => {
  const state = (s: Trial["state"], name: string) => ({
    key: s,
    label: name,
    disabled: trial.state === s,
    onClick: () => set([edit(study, ["trials", trial.id, "state"], s)], `trial ${trial.order}: ${name.toLowerCase()}`),
  });
  const opens = opensSetup(study, trial);
  const measured = Object.values(trial.results).some((v) => v !== null);
  return {
    items: [
      state(measured ? "done" : "planned", measured ? "Mark as run" : "Mark as waiting"),
      state("skipped", "Skip it"),
      state("failed", "Mark as failed"),
      trial.use
        ? {
            key: "out",
            label: "Leave out of models",
            onClick: () => leaveOut(trial),
          }
        : {
            key: "in",
            label: "Use in models again",
            onClick: () =>
              set(
                [edit(study, ["trials", trial.id, "use"], true), edit(study, ["trials", trial.id, "why"], null)],
                `used trial ${trial.order} again`,
              ),
          },
      ...(opens === undefined
        ? []
        : [
            {
              key: "setup",
              label: opens ? "Same set-up as before" : "A new set-up starts here",
              disabled: opens && !joinable(study, trial),
              onClick: () =>
                set(
                  setupEdits(study, trial, !opens),
                  opens ? `trial ${trial.order}: same set-up as before` : `trial ${trial.order}: a new set-up`,
                ),
            },
          ]),
      {
        key: "history",
        label: "History of this trial",
        onClick: () => lookBack(["trials", trial.id]),
      },
      {
        key: "cell",
        label: `History of its ${nameOf(column)}`,
        onClick: () => lookBack(pathOf(trial, column)),
      },
      {
        key: "asplanned",
        label: "It ran as planned",
        disabled: !trial.asRun,
        onClick: () => set([edit(study, ["trials", trial.id, "asRun"], null)], `trial ${trial.order} as planned`),
      },
    ],
  };
};
