import mqtt, { type MqttClient } from "mqtt";
import * as z from "zod";
import { measure, type Rig, shown } from "@/core/operator";
import { StudyError } from "@/core/study";

/** How a stand-in reaches its broker, and how it works. */
export interface StandInOptions {
  broker: string;
  version?: 4 | 5;
  username?: string;
  password?: string;
  /** Who vouches for the broker, PEM. */
  ca?: Buffer;
  topics?: string;
  /** Seconds that a trial takes. */
  seconds: number;
  /** What its first gauge gains with every trial that it runs. */
  drift?: number;
}

/** After which a result that nobody answered is said again, in milliseconds. */
const AGAIN = 3000;

const workSchema = z.object({ study: z.string(), state: z.enum(["run", "pause", "stop"]) });
const trialSchema = z.object({
  rig: z.string(),
  lease: z.string(),
  order: z.number(),
  settings: z.record(z.string(), z.union([z.number(), z.string()])),
  factors: z.array(z.object({ id: z.string(), name: z.string() })),
});
const answerSchema = z.object({ lease: z.string() });

/**
 * A virtual process that stands in for a rig with a controller: it makes itself known over a broker, runs the trials
 * it is sent one at a time, and sends each result again until it hears what became of it. What is said twice it does
 * once.
 */
export class StandIn {
  /** Leases that it ran, in the order run. */
  readonly ran: string[] = [];
  private readonly client: MqttClient;
  private work: z.output<typeof workSchema> | undefined;
  private running: { lease: string; timer: NodeJS.Timeout } | undefined;
  /** Results that nobody has answered yet, by lease. */
  private readonly waiting = new Map<string, { topic: string; body: string }>();
  private readonly stateTopic: string;
  private readonly again: NodeJS.Timeout;

  constructor(
    readonly id: string,
    private readonly rig: Rig,
    private readonly options: StandInOptions,
    private readonly tell: (line: string) => void = () => undefined,
  ) {
    const { broker, version = 4, username, password, ca, topics = "trialmoor" } = options;
    this.stateTopic = `${topics}/rigs/${id}/state`;
    this.client = mqtt.connect(broker, {
      protocolVersion: version,
      clientId: `stand-in-${id}-${process.pid}`,
      reconnectPeriod: 300,
      ...(username === undefined ? {} : { username }),
      ...(password === undefined ? {} : { password }),
      ...(ca ? { ca } : {}),
      will: {
        topic: this.stateTopic,
        payload: JSON.stringify({ ...this.head, state: "gone" }),
        qos: 1,
        retain: true,
      } as never,
    });
    this.client.on("connect", () => {
      this.tell(`connected to ${broker}`);
      this.client.subscribe([`${topics}/rigs/${id}/work`, `${topics}/+/trial`, `${topics}/+/answer`], { qos: 1 });
      this.repeat();
      this.say();
    });
    this.again = setInterval(() => this.repeat(), AGAIN);
    this.client.on("error", (error) => this.tell(`no connection: ${error.message}`));
    this.client.on("message", (topic, payload) => this.hear(topic, payload.toString("utf8")));
  }

  /** Results whose answers were lost on the way, or never given, are said again. */
  private repeat(): void {
    if (!this.client.connected) return;
    for (const { topic, body } of this.waiting.values()) this.client.publish(topic, body, { qos: 1 });
  }

  private get head(): { name: string } {
    return { name: `${this.rig.name.charAt(0).toUpperCase()}${this.rig.name.slice(1)} (stand-in)` };
  }

  /** Says how it stands; not ready while a result waits to be heard of. */
  private say(): void {
    const lease = this.running?.lease ?? [...this.waiting.keys()][0];
    const state = lease === undefined ? { state: "ready" } : { state: "running", lease };
    this.client.publish(this.stateTopic, JSON.stringify({ ...this.head, ...state }), { qos: 1, retain: true });
  }

  private hear(topic: string, text: string): void {
    let data: unknown;
    try {
      data = text === "" ? undefined : JSON.parse(text);
    } catch {
      return;
    }
    const last = topic.slice(topic.lastIndexOf("/") + 1);
    if (last === "work") this.told(workSchema.safeParse(data).data);
    else if (last === "trial") {
      const trial = trialSchema.safeParse(data).data;
      if (trial?.rig === this.id) this.begin(trial, topic.replace(/trial$/, "result"));
    } else if (last === "answer") {
      const answer = answerSchema.safeParse(data).data;
      if (answer && this.waiting.delete(answer.lease)) this.say();
    }
  }

  private told(work: z.output<typeof workSchema> | undefined): void {
    this.work = work;
    if (work) this.tell(`${work.state} for study ${work.study}`);
    if (work?.state !== "stop" || !this.running) return;
    clearTimeout(this.running.timer);
    this.running = undefined;
    this.say();
  }

  private begin(trial: z.output<typeof trialSchema>, topic: string): void {
    const { lease } = trial;
    const unheard = this.waiting.get(lease);
    if (unheard) this.client.publish(unheard.topic, unheard.body, { qos: 1 });
    // Sent again on the way, or one that came as it was told to stop.
    if (unheard || this.running || this.ran.includes(lease) || this.work?.state === "stop") return;
    this.tell(`trial ${trial.order}`);
    const timer = setTimeout(() => this.end(trial, topic), this.options.seconds * 1000);
    this.running = { lease, timer };
    this.say();
  }

  private end({ lease, settings, factors }: z.output<typeof trialSchema>, topic: string): void {
    this.running = undefined;
    let body: object;
    try {
      const measured = measure(this.rig, { named: factors, settings, wave: 0, seed: lease });
      const results = Object.fromEntries(this.rig.gauges.map((g) => [g.id, shown(measured[g.id], g.decimals)]));
      const [{ id, decimals }] = this.rig.gauges;
      const gain = (this.options.drift ?? 0) * this.ran.length;
      if (gain !== 0 && typeof results[id] === "number") results[id] = shown(results[id] + gain, decimals);
      body = { lease, results };
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      body = { lease, failed: error.message };
    }
    this.ran.push(lease);
    const text = JSON.stringify(body);
    this.waiting.set(lease, { topic, body: text });
    this.client.publish(topic, text, { qos: 1 });
    this.say();
  }

  /** Ends it as one that is switched off says good-bye. */
  async close(): Promise<void> {
    clearTimeout(this.running?.timer);
    clearInterval(this.again);
    const gone = JSON.stringify({ ...this.head, state: "gone" });
    // A broker that went first hears no good-bye.
    if (this.client.connected)
      await Promise.race([
        this.client.publishAsync(this.stateTopic, gone, { qos: 1, retain: true }),
        new Promise((resolve) => setTimeout(resolve, 1000)),
      ]);
    await this.client.endAsync(true);
  }
}
