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
      code: "no-setpoint",
      values: {},
      evidence: "candidates",
      weight: 50,
      action: { id: "setpoint", go: "setpoint" },
    });
  else if (tested !== undefined && !(tested?.agrees === true && tested.meetsLimits !== false))
    out.push({
      id: "unconfirmed",
      kind: "caution",
      code: "unconfirmed",
      values: {
        how:
          tested?.agrees === false
            ? "disagrees"
            : tested?.agrees && tested.meetsLimits === false
              ? "misses-limit"
              : "not-run",
      },
      evidence: "candidates",
      weight: 60,
    });
  const missing = study.responses.filter((r) => !storedModel(study, r.id));
  if (missing.length > 0 && study.trials.length > 0) {
    out.push({
      id: "unmodelled",
      kind: "next step",
      code: "unmodelled",
      values: { responses: missing.map((r) => r.name) },
      evidence: "ladder",
      weight: 40,
      action: { id: "model", go: "model" },
    });
  }
  return out;
}
