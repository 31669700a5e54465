/** npm run rig: a small broker and a stand-in rig, so that rigs can be tried out without one. */
import { existsSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Command, InvalidArgumentError } from "commander";
import { rigNamed } from "@/core/operator";
import { StudyError } from "@/core/study";
import { startBroker } from "./broker";
import { StandIn } from "./stand-in";

interface Options {
  port: number;
  broker?: string;
  username?: string;
  password?: string;
  mqtt: 4 | 5;
  seconds: number;
  drift: number;
  id?: string;
}

const number =
  (least: number, most: number) =>
  (text: string): number => {
    const v = Number(text);
    if (text.trim() === "" || !(v >= least && v <= most))
      throw new InvalidArgumentError(`give a number from ${least} to ${most}`);
    return v;
  };

/** Lets the server of this folder know where the broker is, where nobody has said otherwise. */
function introduce(broker: string): string {
  const folder = process.env.TRIALMOOR_DATA ?? join(process.cwd(), "data");
  const file = join(folder, "rigs.json");
  if (existsSync(file)) return `The server reads ${file}, which is there already; it must name ${broker}.`;
  if (!existsSync(folder)) return `Start the server once, so that ${folder} is there, and start this again.`;
  writeFileSync(file, `${JSON.stringify({ broker }, null, 2)}\n`);
  return `Wrote ${file}: the server finds the rig within seconds, under Trials, By a program or rig.`;
}

const command = new Command("rig")
  .description("A broker and a stand-in rig that speaks MQTT")
  .argument("[name]", "virtual process that it stands for", "wool-line")
  .option("--port <n>", "port of the broker", number(0, 65_535), 1883)
  .option("--broker <url>", "a broker that is there already, in place of one of its own")
  .option("--username <name>", "at that broker")
  .option("--password <text>", "at that broker")
  .option("--mqtt <version>", "4 (3.1.1) or 5", number(4, 5), 4)
  .option("--seconds <s>", "that a trial takes", number(0, 3600), 2)
  .option("--drift <amount>", "what its first gauge gains with every trial", number(-1e6, 1e6), 0)
  .option("--id <id>", "by which it makes itself known")
  .action(async (name: string, o: Options) => {
    const rig = rigNamed(name);
    const own = o.broker === undefined ? await startBroker(o.port) : undefined;
    const broker = o.broker ?? `mqtt://127.0.0.1:${own?.port}`;
    const { username, password, seconds, drift, mqtt: version } = o;
    const standIn = new StandIn(
      o.id ?? name,
      rig,
      { broker, version, seconds, drift, ...(username ? { username } : {}), ...(password ? { password } : {}) },
      (line) => console.log(line),
    );
    if (own) console.log(introduce(broker));
    const stop = async (): Promise<void> => {
      await standIn.close();
      await own?.close();
      process.exit(0);
    };
    process.on("SIGINT", () => void stop()).on("SIGTERM", () => void stop());
  });

command.parseAsync(process.argv).catch((error: unknown) => {
  const { code } = error as { code?: string };
  if (error instanceof StudyError) console.error(error.message);
  else if (code === "EADDRINUSE") console.error("The port is taken; give another with --port.");
  else throw error;
  process.exit(1);
});
