import { readFileSync, statSync } from "node:fs";
import { dirname, isAbsolute, join } from "node:path";
import * as z from "zod";

/** The file of the data folder that says by which broker rigs are reached; without it there are none. */
export const RIGS_FILE = "rigs.json";

const topic = z
  .string()
  .min(1)
  .max(100)
  .regex(/^[^#+\0/][^#+\0]*$/);

const settingsSchema = z.strictObject({
  /** mqtt://host:1883, mqtts://host:8883, ws:// or wss:// */
  broker: z.string().regex(/^(mqtts?|wss?):\/\/[^\s@]+$/),
  /** 4 is MQTT 3.1.1. */
  version: z.union([z.literal(4), z.literal(5)]).default(4),
  username: z.string().max(200).optional(),
  password: z.string().max(1000).optional(),
  /** PEM files, beside this one or by their whole path: who vouches for the broker; who we are. */
  ca: z.string().optional(),
  cert: z.string().optional(),
  key: z.string().optional(),
  topics: topic.default("trialmoor"),
  /** How long a trial may be out before it is lent again while its rig is not heard of, in seconds. */
  seconds: z.number().int().min(5).max(86_400).default(3600),
});

/** How rigs are reached. */
export interface RigSettings extends Omit<z.output<typeof settingsSchema>, "ca" | "cert" | "key"> {
  ca?: Buffer;
  cert?: Buffer;
  key?: Buffer;
}

/** Settings as they are read, or why they cannot be; nothing where there is no file. */
export type ReadSettings = { settings: RigSettings } | { sentence: string } | undefined;

/** When the file was last changed; 0 where there is none. */
export const changedAt = (folder: string): number =>
  statSync(join(folder, RIGS_FILE), { throwIfNoEntry: false })?.mtimeMs ?? 0;

/** Reads how rigs are reached. What is secret in the file is in no sentence. */
export function readSettings(folder: string): ReadSettings {
  const path = join(folder, RIGS_FILE);
  let text: string;
  try {
    text = readFileSync(path, "utf8");
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === "ENOENT" ? undefined : { sentence: `${path} cannot be read.` };
  }
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    return { sentence: `${path} is not JSON.` };
  }
  const parsed = settingsSchema.safeParse(data);
  if (!parsed.success) {
    const [{ path: at, code }] = parsed.error.issues;
    return {
      sentence:
        code === "unrecognized_keys"
          ? `${path} holds a key that means nothing here; docs/programs-and-rigs.md says which there are.`
          : `${path}: ${at.join(".") || "it"} cannot be used as it stands; docs/programs-and-rigs.md says how.`,
    };
  }
  const { ca, cert, key, ...settings } = parsed.data;
  const files: Partial<Record<"ca" | "cert" | "key", Buffer>> = {};
  for (const [name, file] of Object.entries({ ca, cert, key })) {
    if (file === undefined) continue;
    try {
      files[name as "ca"] = readFileSync(isAbsolute(file) ? file : join(dirname(path), file));
    } catch {
      return { sentence: `${path}: the file of ${name} cannot be read.` };
    }
  }
  return { settings: { ...settings, ...files } };
}
