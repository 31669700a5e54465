import * as z from "zod";
import { waiting } from "@/core/operator";
import { Problem } from "../problem";
import { readStudy } from "../studies";
import { linked, type RigsSeen, seenRigs } from "./seen";

/** What a rig can be told to do for a study. */
export const rigOrder = z.strictObject({
  do: z.enum(["run", "pause", "stop"]).describe("run its waiting trials, rest after the present one, give up"),
});

/**
 * Tells a rig what to do for a study.
 * @throws Problem `no-study`, `no-rig`, `rig-elsewhere` where it runs another study's trials
 */
export async function orderRig(id: string, rig: string, order: z.output<typeof rigOrder>): Promise<RigsSeen> {
  await readStudy(id);
  const link = linked().link;
  const known = link?.known().find((r) => r.id === rig);
  if (!link || !known) throw new Problem("no-rig", { rig }, { path: ["rig"] });
  if (known.study !== undefined && known.study !== id) {
    const title = await readStudy(known.study).then(
      ({ study }) => (waiting(study).length > 0 ? study.title : undefined),
      () => undefined,
    );
    // A study that has nothing left to run, or is gone, holds no rig.
    if (title !== undefined) throw new Problem("rig-elsewhere", { rig: known.name, study: title }, { path: ["rig"] });
  }
  await link.assign(rig, order.do === "stop" ? undefined : { study: id, paused: order.do === "pause" });
  return seenRigs() as RigsSeen;
}
