"use client";
import { App, Button } from "antd";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useState } from "react";
import type { DeletedStudy, StudySummary } from "@/server/studies";
import { Who } from "@/ui/parts/actor";
import { FilePick } from "@/ui/parts/file-pick";
import { send } from "@/ui/parts/send";
import { Mark } from "@/ui/shell/stage-marker";
import { startTour } from "@/ui/shell/touring";
import { Backups } from "./backups";
import { Deleted } from "./deleted";
import { Examples } from "./examples";
import css from "./home.module.css";
import { StartForm } from "./start-form";
import { StudyRow } from "./study-row";

interface Made {
  id: string;
}

interface HomeProps {
  /** Those shown, of `count`. */
  studies: StudySummary[];
  count: number;
  examples: string[];
  deleted: DeletedStudy[];
  /** Days for which those can be brought back. */
  deletedDays: number;
}

/** Studies as rows of their trail, and three ways to start. */
export function HomeStation(props: HomeProps) {
  return (
    <App message={{ maxCount: 2 }}>
      <Home {...props} />
    </App>
  );
}

function Home({ studies, count, examples, deleted, deletedDays }: HomeProps) {
  const router = useRouter();
  const { message, modal, notification } = App.useApp();
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const [busy, setBusy] = useState(false);
  const [backups, setBackups] = useState(false);
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);

  const act = async (path: string, body: unknown, then: (id: string) => void): Promise<void> => {
    setBusy(true);
    setSentence(undefined);
    const answer = await send<Made | Made[]>(path, "POST", body);
    setBusy(false);
    if (answer.ok) then([answer.data].flat()[0].id);
    else setSentence(answer.sentence);
  };
  const start = (title: string, then: string): void => {
    if (title === "") setSentence("Name the study first: what do you want to find out?");
    else void act("/api/studies", { title }, (id) => router.push(`/studies/${id}/question${then}`));
  };
  const openFile = async (f: File): Promise<void> => {
    if (f.size > 20_000_000)
      return setSentence(`${f.name} holds ${(f.size / 1e6).toFixed(0)} MB; a study file holds at most 20.`);
    let data: unknown;
    try {
      data = JSON.parse(await f.text());
    } catch {
      return setSentence(
        `${f.name} is not a study file: its text is not JSON. Choose a file that ends in .trialmoor.json.`,
      );
    }
    await act("/api/studies/import", data, (id) => router.push(`/studies/${id}/question`));
  };
  const bringBack = (id: string): void => void act(`/api/studies/${id}/restore`, {}, () => router.refresh());
  const remove = (s: StudySummary): void => {
    modal.confirm({
      title: `Delete “${s.title}”?`,
      content: "It can be brought back from the list of deleted studies below.",
      okText: "Delete",
      cancelText: "Keep",
      icon: null,
      onOk: async () => {
        const answer = await send<Made>(`/api/studies/${s.id}`, "DELETE", { revision: s.revision });
        if (!answer.ok) {
          void message.error(answer.sentence);
          return;
        }
        router.refresh();
        const key = s.id;
        notification.open({
          key,
          duration: 30,
          title: `“${s.title}” is deleted`,
          actions: (
            <Button
              onClick={() => {
                notification.destroy(key);
                bringBack(s.id);
              }}
            >
              Bring it back
            </Button>
          ),
        });
      },
    });
  };
  return (
    <div className={css.page} data-ready={ready ? "yes" : "no"}>
      <header className={css.top}>
        <Mark />
        Trialmoor
        <span className="grow" />
        <Who />
      </header>
      <main className={css.inner} data-station="home">
        <h1>Which settings matter, and where to set them</h1>
        <div className={css.start}>
          <StartForm busy={busy} refused={sentence !== undefined} start={start} />
          <Examples
            names={examples}
            busy={busy}
            open={(name) => void act("/api/studies", { example: name }, (id) => router.push(`/studies/${id}/model`))}
            tour={() =>
              void act("/api/studies", { example: "wool-scouring", questionOnly: true }, (id) => {
                startTour(id);
                router.push(`/studies/${id}/question`);
              })
            }
          />
          <div className={css.card}>
            <h2>Files</h2>
            <p>A study file holds question, plans, trials, models and setpoint.</p>
            <FilePick of="study" accept=".json,application/json" disabled={busy} take={(f) => void openFile(f)}>
              Open a study file
            </FilePick>
            <Button onClick={() => setBackups(true)}>Backups</Button>
          </div>
        </div>
        {sentence && (
          <p className="danger" role="alert" style={{ marginBottom: 14 }}>
            {sentence}
          </p>
        )}
        <div className="row" style={{ marginBottom: 10 }}>
          <h2 className="grow">Studies</h2>
          <span className="small quiet">last touched first</span>
        </div>
        {studies.length === 0 && (
          <div className={css.empty}>No studies yet. Start one above, or open a copy of an example to look around.</div>
        )}
        {studies.map((s) => (
          <StudyRow
            key={s.id}
            study={s}
            duplicate={() => void act(`/api/studies/${s.id}/duplicate`, {}, () => router.refresh())}
            remove={() => remove(s)}
          />
        ))}
        {studies.length < count && (
          <Link prefetch={false} href="/?all" className="link">
            Show all {count} studies
          </Link>
        )}
        <Deleted
          studies={deleted}
          days={deletedDays}
          back={bringBack}
          fail={setSentence}
          refresh={() => router.refresh()}
        />
        {backups && <Backups close={() => setBackups(false)} />}
      </main>
    </div>
  );
}
