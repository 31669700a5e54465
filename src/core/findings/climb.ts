import type { Climb } from "../messages/readings";
import { linearFit } from "../model/linear-surface";
import type { Surface } from "../model/surface";
import { significance } from "../study/coding";
import { valueUnit } from "../study/measured";
import type { Study } from "../study/schema";
import type { Path } from "../surface/ascent";
import type { Reading } from "./reading";

/** Gain over the noise of one trial from which a path is worth its trials. */
const WORTH = 1;

/**
 * Why to climb along a path or not: what it gains by the end of what was run against the noise of one trial, whether
 * the plane can be trusted, and how soon the path leaves what was run.
 *
 * @returns undefined where there is no path or nothing to judge it by
 */
export function climbReading(
  study: Study,
  read: Surface,
  path: Pick<Path, "points" | "towards" | "beyond">,
): Reading | undefined {
  const { response, link } = read;
  const { trial: s, exact } = read.error;
  const fit = linearFit(read);
  const [start, ...steps] = path.points;
  const open = path.beyond.map((b) => study.factors.find((f) => f.id === b.factor)?.name ?? b.factor);
  if (!start || steps.length === 0 || !link.identity) return undefined;
  const about = study.responses.find((r) => r.id === response);
  const name = about?.name ?? response;
  const outside = steps.findIndex((p) => !p.inside);
  const first = steps[0];
  const gain = Math.abs(first.predicted - start.predicted);
  const noisy = s !== null && s > 0 && !exact;
  const ratio = noisy ? gain / s : Number.POSITIVE_INFINITY;
  const bend = fit?.curvature?.p;
  const bent = bend !== undefined && bend !== null && bend < significance(study);
  const squares = fit?.terms.some((t) => t.length === 2 && t[0] === t[1]);
  const unit = about ? valueUnit(about) : "";
  const values: Climb = {
    response: name,
    gain: { value: gain, error: s, unit },
    towards: path.towards,
    ratio: noisy ? ratio : null,
    s: noisy ? { value: s, error: s, unit } : null,
    leaves: outside < 0 && open.length > 0 ? steps.length + 1 : outside + 1,
    open,
  };
  const common = { id: "climb", evidence: "map" as const, weight: 58, values };
  if (bent && !squares) return { ...common, kind: "caution", code: "climb-not-yet" };
  if (values.leaves === 0) return { ...common, kind: "finding", code: "climb-no-need" };
  if (ratio < WORTH) return { ...common, kind: "caution", code: "climb-hardly" };
  return { ...common, kind: "next step", code: "climb" };
}
