import * as z from "zod";
import { database } from "../database";

const assignedSchema = z.strictObject({ study: z.string(), paused: z.boolean() });
/** What a rig works on, and whether it rests. */
export type Assigned = z.output<typeof assignedSchema>;

const PREFIX = "rig:";

/** Which rig runs trials of which study; kept, so that a restart changes nothing. */
export class Assignments {
  private constructor(private readonly map: Map<string, Assigned>) {}

  static async read(): Promise<Assignments> {
    const rows = (await (await database()).settings.findAll({ raw: true })) as unknown as {
      name: string;
      value: string;
    }[];
    const own = rows.filter((r) => r.name.startsWith(PREFIX));
    return new Assignments(
      new Map(own.map((r) => [r.name.slice(PREFIX.length), assignedSchema.parse(JSON.parse(r.value))])),
    );
  }

  of = (rig: string): Assigned | undefined => this.map.get(rig);
  all = (): [string, Assigned][] => [...this.map];

  async set(rig: string, work: Assigned | undefined): Promise<void> {
    const db = await database();
    const name = `${PREFIX}${rig}`;
    await db.write(async (transaction) => {
      if (work) await db.settings.upsert({ name, value: JSON.stringify(work) }, { transaction });
      else await db.settings.destroy({ where: { name }, transaction });
    });
    if (work) this.map.set(rig, work);
    else this.map.delete(rig);
  }
}
