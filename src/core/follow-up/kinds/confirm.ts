import { centreSettings } from "../../study/coding";
import { StudyError } from "../../study/error";
import type { Settings, Study } from "../../study/schema";
import { checkSettings } from "../../study/validate";
import type { FollowUpKind } from "../kind";
import { countOf, type FollowOptions, type FollowRuns } from "../options";

/** Confirmation trials unless a number is asked for. */
const CONFIRMATIONS = 3;

/**
 * New trials at one place, to be compared with what the models say of it: the setpoint unless said.
 * @throws StudyError `no-setpoint`
 */
function confirmRuns(study: Study, options: FollowOptions): FollowRuns {
  const n = countOf(options.trials, CONFIRMATIONS, 200, "The number of confirmation trials");
  const chosen = options.at ?? study.setpoint?.settings;
  if (!chosen) throw new StudyError("no-setpoint.confirm", {}, ["setpoint"]);
  const settings: Settings = { ...centreSettings(study.factors), ...chosen };
  checkSettings(study.factors, settings, ["at"]);
  return {
    runs: Array.from({ length: n }, () => ({ settings: { ...settings }, kind: "confirm" as const })),
    recipe: { at: settings },
  };
}

export const confirm: FollowUpKind = {
  id: "confirm",
  purpose: "confirm",
  alone: true,
  ownSetups: true,
  offered: ({ study, exact }) =>
    study.setpoint && !study.trials.some((t) => t.kind === "confirm")
      ? [
          {
            place: 60,
            options: { kind: "confirm", trials: exact ? 1 : CONFIRMATIONS },
            name: { code: "confirm", values: {} },
            why: { code: "not-run", values: {} },
          },
        ]
      : [],
  make: { runs: confirmRuns },
};
