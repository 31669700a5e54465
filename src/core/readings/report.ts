import { storedModel } from "../model/data";
import type { Confirmation } from "../setpoint/confirm";
import type { Study } from "../study/schema";
import type { Reading } from "./reading";

/**
 * What stands between a study and handing it on.
 *
 * @param tested its confirmation, null where there is none; undefined while that is not known yet
 */
export function reportReadings(
  study: Study,
  tested: Pick<Confirmation, "agrees" | "meetsLimits"> | null | undefined,
): Reading[] {
  const out: Reading[] = [];
  if (!study.setpoint)
    out.push({
      id: "no-setpoint",
      kind: "next step",
      text: "No setpoint is chosen yet; the report ends with the models.",
      evidence: "candidates",
      weight: 50,
      action: { label: "Open Setpoint", go: "setpoint" },
    });
  else if (tested !== undefined && !(tested?.agrees === true && tested.meetsLimits !== false))
    out.push({
      id: "unconfirmed",
      kind: "caution",
      text:
        tested?.agrees === false
          ? "The confirmation does not agree with the prediction: say so when you hand this on."
          : tested?.agrees && tested.meetsLimits === false
            ? "The confirmation agrees with the prediction but misses a limit: say so when you hand this on."
            : "The setpoint has not been confirmed by trials of its own: say so when you hand this on.",
      evidence: "candidates",
      weight: 60,
    });
  const missing = study.responses.filter((r) => !storedModel(study, r.id));
  if (missing.length > 0 && study.trials.length > 0) {
    const has = missing.length === 1;
    out.push({
      id: "unmodelled",
      kind: "next step",
      text: `${missing.map((r) => r.name).join(", ")} ${has ? "has" : "have"} no chosen model and ${has ? "is" : "are"} left out.`,
      evidence: "ladder",
      weight: 40,
      action: { label: "Open Model", go: "model" },
    });
  }
  return out;
}
