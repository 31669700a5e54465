import mqtt, { type IPublishPacket, type MqttClient } from "mqtt";
import { StudyError } from "@/core/study";
import { leaseOf } from "../held-leases";
import { giveBack, lendNext, lentTo, renewLease, rigHolder, rigIn, takeFailure, takeResults } from "../leases";
import { log } from "../log";
import { Problem } from "../problem";
import type { Assigned, Assignments } from "./assignments";
import { type AnswerMessage, MOST_MESSAGE, resultMessage, stateMessage, topicsOf, type WorkMessage } from "./messages";
import type { RigSettings } from "./settings";

/** A rig as it is known. */
export interface KnownRig {
  id: string;
  name: string;
  state: "ready" | "running" | "trouble" | "gone";
  since: string;
  /** What it says of itself. */
  says?: string;
  /** The study that it runs trials of, and whether it rests. */
  study?: string;
  paused?: boolean;
  /** The trial that it was sent and has not answered. */
  trial?: number;
  /** What went wrong last. */
  sentence?: string;
}

/** How the broker is reached. */
export interface BrokerState {
  state: "connecting" | "connected" | "refused";
  /** Without what is secret. */
  address: string;
  sentence?: string;
}

/** Most rigs that are known at once. */
const MOST_RIGS = 200;
/** Results of one study that may wait to be taken in; what comes beyond is not taken, and comes again. */
const MOST_WAITING = 200;

/** Between two rounds in which leases of running rigs are renewed, in milliseconds. */
const ROUND = 30_000;

/** Why a connection is refused, in words. */
function refusalOf(error: Error & { code?: string | number }): string {
  const { code, message } = error;
  if (code === 4 || code === 5 || code === 134 || code === 135 || /not authorized|bad user/i.test(message))
    return "The broker refuses the user name or password of rigs.json.";
  if (code === "ECONNREFUSED") return "Nothing answers at the broker's address.";
  if (code === "ENOTFOUND" || code === "EAI_AGAIN") return "The broker's address is not known here.";
  if (/certificate|self.signed|altname|CERT/i.test(`${message} ${code}`))
    return "The broker's certificate is not trusted; name in rigs.json, as ca, who vouches for it.";
  if (code === 1 || code === 132) return "The broker does not speak the version of MQTT of rigs.json.";
  return "The broker cannot be reached.";
}

/**
 * The link to the rigs over a broker: what they say of themselves, trials out, results in. Each rig has at most one
 * trial at a time, held by a lease; what is said twice on the way is done once.
 */
export class RigLink {
  readonly broker: BrokerState;
  private readonly client: MqttClient;
  private readonly topics: ReturnType<typeof topicsOf>;
  private readonly rigs = new Map<string, KnownRig>();
  /** What is done about a rig is done in turn. */
  private readonly turns = new Map<string, Promise<void>>();
  /** Results that wait to be taken in, by study. */
  private readonly waiting = new Map<string, number>();
  private readonly timers = new Set<NodeJS.Timeout>();
  private readonly round: NodeJS.Timeout;
  private closed = false;

  constructor(
    private readonly settings: RigSettings,
    private readonly assignments: Assignments,
    reconnectPeriod = 1000,
  ) {
    const { broker, version, username, password, ca, cert, key, topics } = settings;
    this.topics = topicsOf(topics);
    this.broker = { state: "connecting", address: broker };
    this.client = mqtt.connect(broker, {
      protocolVersion: version,
      clientId: `trialmoor-${process.pid}-${Date.now().toString(36)}`,
      reconnectPeriod,
      connectTimeout: 10_000,
      ...(username === undefined ? {} : { username }),
      ...(password === undefined ? {} : { password }),
      ...(ca ? { ca } : {}),
      ...(cert ? { cert } : {}),
      ...(key ? { key } : {}),
    });
    this.client.on("connect", () => this.connected());
    this.client.on("error", (error) => this.refused(error));
    this.client.on("close", () => {
      if (this.broker.state === "connected") this.broker.state = "connecting";
    });
    this.client.on("message", (topic, payload, packet) => this.hear(topic, payload, packet));
    this.round = setInterval(() => void this.renew(), ROUND).unref();
  }

  private connected(): void {
    this.broker.state = "connected";
    delete this.broker.sentence;
    const { topics } = this.settings;
    // What a rig says is kept by the broker: each is known again at once, and gets what it was sent.
    this.client.subscribe([`${topics}/rigs/+/state`, `${topics}/+/result`], { qos: 1 }, (error) => {
      if (error) this.refused(error);
    });
    for (const [rig, work] of this.assignments.all()) this.tell(rig, work);
  }

  private refused(error: Error & { code?: string | number }): void {
    this.broker.state = "refused";
    this.broker.sentence = refusalOf(error);
  }

  /** Every rig that was ever heard of here, by name. */
  known(): KnownRig[] {
    return [...this.rigs.values()].sort((a, b) => a.name.localeCompare(b.name));
  }

  /** Work for a rig, or none; answers whether it is known. */
  async assign(rig: string, work: Assigned | undefined): Promise<boolean> {
    if (!this.rigs.has(rig)) return false;
    await this.inTurn(rig, async () => {
      const before = this.assignments.of(rig);
      if (before && work?.study !== before.study) await this.leave(rig, before);
      await this.assignments.set(rig, work);
      // Read only now: what the rig said of itself while that was written stands.
      this.rigs.set(rig, this.withWork(this.rigs.get(rig) as KnownRig, work));
      if (work) this.tell(rig, work);
      await this.push(rig);
    });
    return true;
  }

  /** Takes a rig off its study: the trial that it runs waits again. */
  private async leave(rig: string, { study }: Assigned): Promise<void> {
    this.publish(this.topics.work(rig), { study, state: "stop" } satisfies WorkMessage, true);
    const out = await lentTo(study, rigHolder(rig)).catch(() => undefined);
    if (out) await giveBack(study, out.lease).catch(() => undefined);
  }

  private tell(rig: string, { study, paused }: Assigned): void {
    this.publish(this.topics.work(rig), { study, state: paused ? "pause" : "run" } satisfies WorkMessage, true);
  }

  private withWork(rig: KnownRig, work: Assigned | undefined): KnownRig {
    const { study: _study, paused: _paused, trial: _trial, sentence: _sentence, ...rest } = rig;
    return { ...rest, ...(work ? { study: work.study, paused: work.paused } : {}) };
  }

  private update(rig: string, more: Partial<KnownRig>): void {
    const known = this.rigs.get(rig);
    if (known) this.rigs.set(rig, { ...known, ...more });
  }

  private publish(topic: string, message: object, retain = false, properties?: IPublishPacket["properties"]): void {
    this.client.publish(topic, JSON.stringify(message), {
      qos: 1,
      retain,
      ...(properties && this.settings.version === 5 ? { properties } : {}),
    });
  }

  private inTurn(rig: string, work: () => Promise<void>): Promise<void> {
    const next = (this.turns.get(rig) ?? Promise.resolve()).then(async () => {
      if (!this.closed) await work();
    });
    const settled = next.catch((error: unknown) => {
      log.error(error);
    });
    this.turns.set(rig, settled);
    return settled;
  }

  /** What comes over the broker. What cannot be read is answered where somebody is known who said it, and logged. */
  private hear(topic: string, payload: Buffer, packet: IPublishPacket): void {
    const parts = topic.slice(this.settings.topics.length + 1).split("/");
    const rig = parts.length === 3 && parts[0] === "rigs" ? parts[1] : undefined;
    const study = parts.length === 2 && parts[1] === "result" ? parts[0] : undefined;
    if (payload.length === 0) return;
    let data: unknown;
    try {
      if (payload.length > MOST_MESSAGE) throw new RangeError();
      data = JSON.parse(payload.toString("utf8"));
    } catch {
      data = undefined;
    }
    if (rig !== undefined) this.hearState(rig, data);
    else if (study !== undefined) this.hearResult(study, data, packet.properties?.correlationData);
  }

  private hearState(rig: string, data: unknown): void {
    const parsed = stateMessage.safeParse(data);
    if (!parsed.success || rig.length > 60) {
      log.warn({ rig }, "a rig said something that is no state");
      return;
    }
    const { state, name, says } = parsed.data;
    const work = this.assignments.of(rig);
    const before = this.rigs.get(rig);
    if (!before && !work && !this.hasRoom()) {
      this.broker.sentence = `More than ${MOST_RIGS} rigs make themselves known; “${rig}” and those after it are not listed. Take away the states that rigs left at the broker.`;
      return;
    }
    const { says: _says, ...kept } = before ?? this.withWork({ id: rig, name: rig, state, since: "" }, work);
    this.rigs.set(rig, {
      ...kept,
      state,
      since: before?.state === state ? before.since : new Date().toISOString(),
      ...(name ? { name } : {}),
      ...(says ? { says } : {}),
    });
    if (state === "ready") void this.inTurn(rig, () => this.push(rig));
  }

  /** Whether one more rig may be known, if need be in place of one that is gone. */
  private hasRoom(): boolean {
    if (this.rigs.size < MOST_RIGS) return true;
    const gone = [...this.rigs.values()].find((r) => r.state === "gone" && r.study === undefined);
    if (gone) this.rigs.delete(gone.id);
    return gone !== undefined;
  }

  /** Sends a rig that is ready the trial that it holds, or the next. */
  private async push(rig: string): Promise<void> {
    const work = this.assignments.of(rig);
    if (!work || !this.rigs.has(rig)) return;
    const { study } = work;
    let lease = await lentTo(study, rigHolder(rig)).catch(() => undefined);
    this.rigs.set(rig, { ...this.rigs.get(rig), ...(lease ? { trial: lease.order } : {}) } as KnownRig);
    if (this.rigs.get(rig)?.state !== "ready") return;
    if (!lease) {
      const { trial: _trial, ...idle } = this.rigs.get(rig) as KnownRig;
      this.rigs.set(rig, idle);
      if (work.paused) return;
      const next = await lendNext(study, { holder: rigHolder(rig), seconds: this.settings.seconds }).catch(
        (error: unknown) => {
          if (error instanceof Problem) return undefined;
          throw error;
        },
      );
      if (next && "again" in next) this.later(next.again, () => void this.inTurn(rig, () => this.push(rig)));
      if (!next || "again" in next) return;
      lease = next;
    }
    this.update(rig, { trial: lease.order });
    this.publish(this.topics.trial(study), { ...lease, rig }, false, {
      responseTopic: this.topics.result(study),
      correlationData: Buffer.from(lease.lease),
    });
  }

  private later(seconds: number, work: () => void): void {
    const timer = setTimeout(() => {
      this.timers.delete(timer);
      work();
    }, seconds * 1000).unref();
    this.timers.add(timer);
  }

  private hearResult(study: string, data: unknown, correlation: Buffer | undefined): void {
    const said = (data as { lease?: unknown } | undefined)?.lease ?? correlation?.toString("utf8");
    if (typeof said !== "string" || said.length > 64) {
      log.warn({ study }, "a result came for no lease");
      return;
    }
    void this.take(study, said, data);
  }

  private async take(study: string, lease: string, data: unknown): Promise<void> {
    const known = await leaseOf(study, lease).catch(() => undefined);
    // Of no lease: said at once, whatever else waits.
    if (!known) {
      const { code, message } = new Problem("lease-over", {});
      this.publish(this.topics.answer(study), { lease, taken: false, code, detail: message } satisfies AnswerMessage);
      return;
    }
    const waiting = this.waiting.get(study) ?? 0;
    if (waiting >= MOST_WAITING) {
      this.broker.sentence = `Results of one study come faster than they can be taken in; some were not taken, and rigs send them again.`;
      log.warn({ study }, "a result was not taken: too many wait");
      return;
    }
    this.waiting.set(study, waiting + 1);
    const rig = rigIn(known.holder);
    await this.inTurn(rig ?? `study ${study}`, async () => {
      const answer = await this.taken(study, lease, data, rig);
      if (answer) this.publish(this.topics.answer(study), answer);
    });
    const left = (this.waiting.get(study) ?? 1) - 1;
    if (left === 0) this.waiting.delete(study);
    else this.waiting.set(study, left);
  }

  /** Takes a result in; what becomes of it is the answer. What the server could not do has none: it comes again. */
  private async taken(
    study: string,
    lease: string,
    data: unknown,
    rig: string | undefined,
  ): Promise<AnswerMessage | undefined> {
    const key = `mqtt-${lease}`;
    const who = (holder: string): string => (rig === undefined ? undefined : this.rigs.get(rig)?.name) ?? holder;
    try {
      const parsed = resultMessage.safeParse(data);
      if (!parsed.success)
        throw new StudyError("program-answer.unreadable", { text: JSON.stringify(data ?? "").slice(0, 60) });
      const { failed, results, asRun, note } = parsed.data;
      if (failed !== undefined) await takeFailure(study, lease, failed, who, key);
      else if (!results) throw new StudyError("program-answer.nothing", {});
      else await takeResults(study, lease, { data: { results, asRun, note } }, who, key);
      if (rig !== undefined) this.free(rig);
      return { lease, taken: true };
    } catch (error) {
      if (error instanceof StudyError) {
        await takeFailure(study, lease, error.message, who, `${key}-unread`).catch(() => undefined);
        if (rig !== undefined) await this.rest(rig, error.message);
      } else if (!(error instanceof Problem) || error.status >= 500) {
        log.error(error);
        return undefined;
      } else if (rig !== undefined) this.update(rig, { sentence: error.message });
      return { lease, taken: false, code: error.code, detail: error.message };
    }
  }

  /** A rig whose trial came back. */
  private free(rig: string): void {
    const known = this.rigs.get(rig);
    if (!known) return;
    const { trial: _trial, sentence: _sentence, ...rest } = known;
    this.rigs.set(rig, rest);
  }

  /** What cannot be read of one trial would not be read of the next: the rig rests until somebody has looked. */
  private async rest(rig: string, sentence: string): Promise<void> {
    const work = this.assignments.of(rig);
    if (work) {
      await this.assignments.set(rig, { ...work, paused: true });
      this.tell(rig, { ...work, paused: true });
    }
    this.free(rig);
    this.update(rig, { sentence, ...(work ? { paused: true } : {}) });
  }

  /** Rigs that wait for trials of a study are sent what there is now. */
  wake(study: string): void {
    for (const { id, study: own } of this.known()) if (own === study) void this.inTurn(id, () => this.push(id));
  }

  /** Rigs that run hold on to their trials, whatever they take; those that wait get what came meanwhile. */
  private async renew(): Promise<void> {
    for (const rig of this.known()) {
      if (rig.study !== undefined && rig.state === "ready") this.wake(rig.study);
      if (rig.state !== "running" || rig.study === undefined) continue;
      const lease = await lentTo(rig.study, rigHolder(rig.id)).catch(() => undefined);
      if (lease) await renewLease(rig.study, lease.lease).catch(() => undefined);
    }
  }

  async close(): Promise<void> {
    this.closed = true;
    clearInterval(this.round);
    for (const timer of this.timers) clearTimeout(timer);
    await Promise.all(this.turns.values());
    await this.client.endAsync(true);
  }
}
