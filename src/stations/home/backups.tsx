"use client";
import { Button, Checkbox, InputNumber } from "antd";
import { useRouter } from "next/navigation";
import { useCallback, useEffect, useState } from "react";
import { counted } from "@/core/findings";
import type { BackedUp, Backup, Restored } from "@/server/backups";
import type { Retention } from "@/server/retention";
import { FilePick } from "@/ui/parts/file-pick";
import { LinkButton } from "@/ui/parts/link-button";
import { Modal } from "@/ui/parts/overlays";
import { send } from "@/ui/parts/send";
import css from "./home.module.css";

const when = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" });
const timeOf = (at: string): string => when.format(new Date(at));
const sizeOf = (bytes: number): string =>
  bytes >= 1e6 ? `${(bytes / 1e6).toFixed(bytes >= 1e7 ? 0 : 1)} MB` : `${Math.max(1, Math.round(bytes / 1000))} kB`;

const WHY: Readonly<Record<string, string>> = {
  daily: "daily",
  asked: "asked for",
  "before-restore": "before a restore",
  brought: "brought from a file",
};
const whyOf = (name: string): string =>
  WHY[Object.keys(WHY).find((kind) => name.startsWith(`${kind}-`)) ?? ""] ?? "put into the folder";

/** What has become of a study since a backup. */
function since({ revision, deletedAt, now }: BackedUp): string {
  if (!now) return "not there any more";
  if (now.deletedAt && !deletedAt) return "deleted since";
  if (now.revision === revision) return "the same";
  return now.revision > revision
    ? `${counted(now.revision - revision, "change")} since`
    : `stands at revision ${now.revision}`;
}

/** A backup looked into: what it holds beside what stands, before anything is restored. */
function Inside({
  backup,
  done,
  back,
  fail,
}: {
  backup: Backup;
  done(sentence: string): void;
  back(): void;
  fail(sentence: string): void;
}) {
  const [held, setHeld] = useState<readonly BackedUp[] | undefined>(undefined);
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [sure, setSure] = useState(false);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    void send<BackedUp[]>(`/api/backups/${backup.name}/studies`).then((answer) => {
      if (answer.ok) setHeld(answer.data);
      else fail(answer.sentence);
    });
  }, [backup.name, fail]);
  const restore = async (studies: readonly string[] | undefined): Promise<void> => {
    setBusy(true);
    const answer = await send<Restored>(`/api/backups/${backup.name}/restore`, "POST", studies ? { studies } : {});
    setBusy(false);
    if (!answer.ok) fail(answer.sentence);
    else if (studies) done(`${counted(answer.data.studies.length, "study", "studies")} put beside what stands.`);
    else
      done(`Everything stands as it did on ${timeOf(backup.at)}; what stood before is kept as ${answer.data.before}.`);
  };
  if (!held) return <p className="quiet">Looking into it…</p>;
  return (
    <>
      <div className="row" style={{ marginBottom: 8 }}>
        <span className="grow">
          <b>{timeOf(backup.at)}</b>{" "}
          <span className="quiet">
            {counted(held.length, "study", "studies")}, {sizeOf(backup.bytes)}
          </span>
        </span>
        <LinkButton onClick={back}>All backups</LinkButton>
      </div>
      <div className={css.backups}>
        <table>
          <thead>
            <tr>
              <th aria-label="ticked" />
              <th>Study</th>
              <th>Last changed then</th>
              <th>Now</th>
            </tr>
          </thead>
          <tbody>
            {held.map((s) => (
              <tr key={s.id}>
                <td>
                  <Checkbox
                    aria-label={`Tick ${s.title}`}
                    checked={ticked.has(s.id)}
                    onChange={(e) =>
                      setTicked(
                        (t) => new Set(e.target.checked ? [...t, s.id] : [...t].filter((other) => other !== s.id)),
                      )
                    }
                  />
                </td>
                <td>
                  {s.title}
                  {s.deletedAt && <span className="quiet"> (deleted then)</span>}
                </td>
                <td className="num">{timeOf(s.updatedAt)}</td>
                <td>{since(s)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="row" style={{ marginTop: 12, gap: 8, flexWrap: "wrap" }}>
        <Button type="primary" disabled={busy || ticked.size === 0} onClick={() => void restore([...ticked])}>
          Put the ticked beside what stands
        </Button>
        {sure ? (
          <>
            <span className="warning">Everything since {timeOf(backup.at)} goes; a backup of it is made first.</span>
            <Button danger disabled={busy} onClick={() => void restore(undefined)}>
              Restore everything
            </Button>
            <Button onClick={() => setSure(false)}>Leave all as it is</Button>
          </>
        ) : (
          <Button disabled={busy} onClick={() => setSure(true)}>
            Restore everything as it was…
          </Button>
        )}
      </div>
    </>
  );
}

/** Backups: made now and every day, listed, saved, looked into, restored. */
export function Backups({ close }: { close(): void }) {
  const router = useRouter();
  const [list, setList] = useState<readonly Backup[] | undefined>(undefined);
  const [keeping, setRetention] = useState<(Retention & { folder: string }) | undefined>(undefined);
  const [inside, setInside] = useState<Backup | undefined>(undefined);
  const [busy, setBusy] = useState(false);
  const [said, setSaid] = useState<{ text: string; bad: boolean } | undefined>(undefined);
  const fail = useCallback((text: string) => {
    setSaid({ text, bad: true });
    setInside(undefined);
  }, []);
  const read = useCallback(async (): Promise<void> => {
    const [backups, kept] = await Promise.all([
      send<Backup[]>("/api/backups"),
      send<Retention & { folder: string }>("/api/keeping"),
    ]);
    if (backups.ok) setList(backups.data);
    else fail(backups.sentence);
    if (kept.ok) setRetention(kept.data);
  }, [fail]);
  useEffect(() => {
    void read();
  }, [read]);
  const act = async (path: string, method: string, body: unknown, text: string): Promise<void> => {
    setBusy(true);
    const answer = await send<unknown>(path, method, body);
    setBusy(false);
    setSaid(answer.ok ? { text, bad: false } : { text: answer.sentence, bad: true });
    await read();
  };
  const keep = (change: Partial<Retention>): void => void act("/api/keeping", "PATCH", change, "Kept so from now on.");
  return (
    <Modal open footer={null} onCancel={close} title="Backups" width={760}>
      {said && (
        <p className={said.bad ? "danger" : "success"} role={said.bad ? "alert" : "status"} style={{ marginBottom: 8 }}>
          {said.text}
        </p>
      )}
      {inside ? (
        <Inside
          backup={inside}
          back={() => setInside(undefined)}
          fail={fail}
          done={(text) => {
            setSaid({ text, bad: false });
            setInside(undefined);
            void read();
            router.refresh();
          }}
        />
      ) : (
        <>
          <p className="small">
            Everything in one file: studies with their history and marks, deleted ones too. Kept in{" "}
            <code>{keeping?.folder ?? "…"}</code>.
          </p>
          <div className="row" style={{ gap: 10, margin: "10px 0", flexWrap: "wrap" }}>
            <Button
              type="primary"
              loading={busy}
              onClick={() => void act("/api/backups", "POST", undefined, "Backed up.")}
            >
              Back up now
            </Button>
            <FilePick
              of="backup"
              accept=".sqlite"
              disabled={busy}
              take={(file) =>
                void act(
                  `/api/backups?called=${encodeURIComponent(file.name)}`,
                  "POST",
                  new Blob([file], { type: "application/vnd.sqlite3" }),
                  `${file.name} stands among the backups; look into it to restore it.`,
                )
              }
            >
              Bring one from a file
            </FilePick>
            <span className="grow" />
            {keeping && (
              <span className="row small" style={{ gap: 8 }}>
                <Checkbox checked={keeping.dailyBackup} onChange={(e) => keep({ dailyBackup: e.target.checked })}>
                  every day, the last
                </Checkbox>
                <InputNumber
                  size="small"
                  min={1}
                  max={365}
                  style={{ width: 62 }}
                  aria-label="Daily backups that are kept"
                  value={keeping.backupsKept}
                  onChange={(n) => n !== null && keep({ backupsKept: n })}
                />
                are kept
              </span>
            )}
          </div>
          {list?.length === 0 && (
            <p className="quiet">No backup yet. The first daily one is made within an hour; or press Back up now.</p>
          )}
          {list && list.length > 0 && (
            <div className={css.backups}>
              <table>
                <thead>
                  <tr>
                    <th>Made</th>
                    <th>Why</th>
                    <th className="num">Studies</th>
                    <th className="num">Size</th>
                    <th aria-label="act" />
                  </tr>
                </thead>
                <tbody>
                  {list.map((b) => (
                    <tr key={b.name} data-backup={b.name}>
                      <td className="num">{timeOf(b.at)}</td>
                      <td>{whyOf(b.name)}</td>
                      <td className="num">{b.studies ?? <span className="danger">cannot be read</span>}</td>
                      <td className="num">{sizeOf(b.bytes)}</td>
                      <td>
                        <span className="row" style={{ gap: 6, justifyContent: "flex-end" }}>
                          <Button size="small" disabled={busy} onClick={() => setInside(b)}>
                            Look inside
                          </Button>
                          <Button size="small" href={`/api/backups/${b.name}`}>
                            Save file
                          </Button>
                          <Button
                            size="small"
                            disabled={busy}
                            onClick={() => void act(`/api/backups/${b.name}`, "DELETE", undefined, "Deleted.")}
                          >
                            Delete
                          </Button>
                        </span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
        </>
      )}
    </Modal>
  );
}
