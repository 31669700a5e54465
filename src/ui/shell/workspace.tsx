"use client";
import { AutoComplete, Button, Input } from "antd";
import "../no-eval";
import Link from "next/link";
import { usePathname, useRouter } from "next/navigation";
import { type ReactNode, useEffect, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import {
  cellAt,
  edit,
  type Mark as NamedMoment,
  STATIONS,
  type Station,
  type Study,
  spotOf,
  spotText,
  standingOf,
  standingText,
} from "@/core";
import { createDesk, DeskProvider, useDesk, useDeskStore } from "../desk/store";
import { Modal, usePrefetchedOverlays } from "../parts/overlays";
import { say } from "../parts/say";
import { Who } from "../parts/who";
import { Mark } from "./cairn";
import { Glossary } from "./glossary";
import css from "./shell.module.css";
import { STATION_NAMES } from "./station-names";
import { startTour, Tour } from "./tour";
import { Trail } from "./trail";

const SAVED = {
  saved: "all changes saved",
  saving: "saving…",
  offline: "not saved: the server does not answer; trying again",
  refused: "a change was refused: see below",
} as const;

function Title() {
  const title = useDesk((d) => d.study.title);
  const commit = useDesk((d) => d.commit);
  const study = useDesk((d) => d.study);
  const [draft, setDraft] = useState<string | undefined>(undefined);
  const take = (): void => {
    if (draft !== undefined && draft.trim() !== title) {
      const trouble =
        draft.trim() === ""
          ? "A study needs a name; the old one was kept."
          : commit([edit(study, ["title"], draft.trim())], "renamed the study");
      if (trouble) say(trouble);
    }
    setDraft(undefined);
  };
  if (draft === undefined)
    return (
      <Button type="text" className={css.title} title={`${title} (click to rename)`} onClick={() => setDraft(title)}>
        {title}
      </Button>
    );
  return (
    <Input
      className={css.title}
      variant="borderless"
      aria-label="Study name"
      autoFocus
      value={draft}
      maxLength={200}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === "Enter") take();
        if (e.key === "Escape") setDraft(undefined);
      }}
    />
  );
}

/** Cells that two tabs changed at once, side by side. */
function Clashes() {
  const study = useDesk((d) => d.study);
  const clashes = useDesk((d) => d.clashes);
  const settle = useDesk((d) => d.settle);
  if (clashes.length === 0) return null;
  const words = (value: unknown, path: readonly string[]): string => standingText(standingOf({ study }, value, path));
  return (
    <Modal open footer={null} closable={false} title="Changed here and in another tab">
      <p className="quiet" style={{ marginBottom: 10 }}>
        Nothing was overwritten. Choose what each cell shall hold.
      </p>
      {clashes.map((c) => (
        <div key={c.path.join("/")} className={css.clash}>
          <strong>{spotText(spotOf({ study }, c.path))}</strong>
          <div className="row" style={{ marginTop: 6 }}>
            <Button onClick={() => settle(c, "mine")}>keep mine: {words(c.mine, c.path)}</Button>
            <Button onClick={() => settle(c, "theirs")}>keep theirs: {words(c.theirs, c.path)}</Button>
          </div>
        </div>
      ))}
    </Modal>
  );
}

const MOST_CELLS = 4;

/** Changes that the server refused, each beside what stands: to be tried again or let go. Work goes on around them. */
function Refusals() {
  const study = useDesk((d) => d.study);
  const refused = useDesk((d) => d.refused);
  const retry = useDesk((d) => d.retry);
  const letGo = useDesk((d) => d.letGo);
  if (refused.length === 0) return null;
  const words = (value: unknown, path: readonly string[]): string => standingText(standingOf({ study }, value, path));
  return (
    <section className={css.refusals} role="alert" aria-label="Refused changes">
      <strong>
        {refused.length === 1 ? "One change was refused" : `${refused.length} changes were refused`}; all others are
        kept.
      </strong>
      {refused.map((r, i) => (
        <div key={`${i} ${r.what}`} className={css.clash}>
          <div>
            {r.what}: {r.sentence}
          </div>
          {r.edits.slice(0, MOST_CELLS).map((e) => (
            <div key={e.path.join("/")} className="small">
              <span className="quiet">{spotText(spotOf({ study }, e.path))}:</span> stands{" "}
              {words(cellAt(study, e.path), e.path)}, typed {words(e.to, e.path)}
            </div>
          ))}
          {r.edits.length > MOST_CELLS && (
            <div className="small quiet">and {r.edits.length - MOST_CELLS} more cells</div>
          )}
          <div className="row" style={{ marginTop: 6 }}>
            <Button
              size="small"
              onClick={() => {
                const sentence = retry(r);
                if (sentence) say(sentence);
              }}
            >
              Try again
            </Button>
            <Button size="small" onClick={() => letGo(r)}>
              Keep what stands
            </Button>
          </div>
        </div>
      ))}
    </section>
  );
}

interface PaletteCommand {
  name: string;
  keys?: string;
  run(): void;
}

function Palette({ close, commands }: { close(): void; commands: PaletteCommand[] }) {
  const run = (name: string): void => {
    const found = commands.find((c) => c.name === name);
    if (!found) return;
    close();
    found.run();
  };
  return (
    <Modal open onCancel={close} footer={null} closable={false} width={480} title="Commands">
      <AutoComplete
        open
        autoFocus
        defaultActiveFirstOption
        aria-label="Find a command"
        placeholder="Find a command"
        style={{ width: "100%", marginBottom: 328 }}
        listHeight={320}
        filterOption={(typed, option) => (option?.value ?? "").toLowerCase().includes(typed.toLowerCase())}
        notFoundContent="No command is called that."
        options={commands.map((c) => ({
          value: c.name,
          label: (
            <span className={css.command}>
              {c.name}
              {c.keys && <kbd>{c.keys}</kbd>}
            </span>
          ),
        }))}
        onSelect={run}
        onKeyDown={(e) => {
          // Else the same key would press the first button of what opens next.
          if (e.key === "Enter") e.preventDefault();
        }}
      />
    </Modal>
  );
}

/**
 * The desk of one study with the shell around its stations. A desk is made and drawn in the page alone: on the server
 * its fits and charts would be worked out only to be done again here.
 *
 * @param stored the study as JSON text, which travels and is read faster than an object of a thousand trials
 */
export function Workspace({
  id,
  revision,
  title,
  stored,
  marks,
  children,
}: {
  id: string;
  revision: number;
  title: string;
  stored: string;
  /** Moments that were named. */
  marks: readonly NamedMoment[];
  children: ReactNode;
}) {
  const [desk, setDesk] = useState<ReturnType<typeof createDesk> | undefined>(undefined);
  // Once: what the desk holds goes on from what was opened.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a later answer of the server must not replace the desk.
  useEffect(() => {
    const made = createDesk(id, revision, JSON.parse(stored) as Study, marks);
    made.getState().resume();
    setDesk(made);
  }, []);
  if (!desk)
    return (
      <div className={css.shell} data-ready="no">
        <header className={css.top}>
          <span className={css.brand}>
            <Mark />
            Trialmoor
          </span>
          <span className={css.divider} />
          <span className={css.title}>{title}</span>
        </header>
      </div>
    );
  return (
    <DeskProvider value={desk}>
      <Shell>{children}</Shell>
    </DeskProvider>
  );
}

function Shell({ children }: { children: ReactNode }) {
  const desk = useDeskStore();
  const id = useDesk((d) => d.id);
  const saved = useDesk((d) => d.saved);
  const pending = useDesk((d) => d.pending.length);
  const trouble = useDesk((d) => d.trouble);
  const undoable = useDesk((d) => d.undoable.at(-1)?.what);
  const redoable = useDesk((d) => d.redoable.at(-1)?.what);
  const { undo, redo, fold, widen } = desk.getState();
  const router = useRouter();
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  // Told once the page answers to keys, so that nothing types into a page that is still being put together.
  const [ready, setReady] = useState(false);
  useEffect(() => setReady(true), []);
  usePrefetchedOverlays();
  const title = useDesk((d) => d.study.title);
  const path = usePathname();
  // A station that opens brings the application's own title back.
  // biome-ignore lint/correctness/useExhaustiveDependencies: as said above.
  useEffect(() => {
    document.title = `${title} · Trialmoor`;
  }, [title, path]);
  const go = (station: Station): void => router.push(`/studies/${id}/${station}`);
  const tell = (sentence: string | undefined): void => {
    if (sentence) say(sentence);
  };
  const hot = { preventDefault: true };
  useHotkeys("g>q", () => go("question"));
  useHotkeys("g>p", () => go("plan"));
  useHotkeys("g>t", () => go("trials"));
  useHotkeys("g>m", () => go("model"));
  useHotkeys("g>s", () => go("setpoint"));
  useHotkeys("g>r", () => go("report"));
  useHotkeys("g>h", () => router.push(`/studies/${id}/history`));
  useHotkeys("w", widen);
  useHotkeys("bracketleft", () => fold("probe"));
  useHotkeys("bracketright", () => fold("readings"));
  useHotkeys("mod+k", () => setPalette(true), { ...hot, enableOnFormTags: true });
  useHotkeys("mod+z", () => tell(undo()), hot);
  useHotkeys("mod+shift+z, mod+y", () => tell(redo()), hot);
  useEffect(() => {
    const warn = (e: BeforeUnloadEvent): void => {
      if (desk.getState().saved === "offline") e.preventDefault();
    };
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [desk]);
  const commands = (): PaletteCommand[] => [
    ...STATIONS.map((s) => ({ name: `Go to ${STATION_NAMES[s]}`, keys: `g ${s[0]}`, run: () => go(s) })),
    { name: "History: every change of this study", keys: "g h", run: () => router.push(`/studies/${id}/history`) },
    { name: "Mark this moment", run: () => router.push(`/studies/${id}/history#mark`) },
    { name: "Home", run: () => router.push("/") },
    { name: "Undo", keys: "Ctrl Z", run: () => tell(undo()) },
    { name: "Redo", keys: "Ctrl Shift Z", run: () => tell(redo()) },
    { name: "Give the view the page, or take it back", keys: "w", run: widen },
    { name: "Fold or unfold the probe", keys: "[", run: () => fold("probe") },
    { name: "Fold or unfold readings", keys: "]", run: () => fold("readings") },
    { name: "Download the study file", run: () => window.location.assign(`/api/studies/${id}/export?format=json`) },
    { name: "Download the ledger as CSV", run: () => window.location.assign(`/api/studies/${id}/export?format=csv`) },
    ...desk
      .getState()
      .study.responses.map((r) => ({ name: `Show response ${r.name}`, run: () => desk.getState().choose(r.id) })),
    { name: "Glossary", run: () => setHelp(true) },
    {
      name: "Tour of this study",
      run: () => {
        startTour(id);
        window.location.assign(`/studies/${id}/question`);
      },
    },
  ];
  return (
    <div className={css.shell} data-ready={ready ? "yes" : "no"}>
      <header className={css.top}>
        <Link prefetch={false} href="/" className={css.brand} title="Home">
          <Mark />
          Trialmoor
        </Link>
        <span className={css.divider} />
        <Title />
        <span
          className={css.saved}
          data-state={saved}
          data-saved={saved === "saved" && pending === 0 ? "yes" : "no"}
          role="status"
          title={trouble}
        >
          {SAVED[saved]}
        </span>
        <div className={css.tools}>
          <Button
            type="text"
            disabled={!undoable}
            onClick={() => tell(undo())}
            title={undoable ? `Undo: ${undoable}` : "Nothing to undo"}
          >
            Undo <kbd>Ctrl Z</kbd>
          </Button>
          <Button
            type="text"
            disabled={!redoable}
            onClick={() => tell(redo())}
            title={redoable ? `Redo: ${redoable}` : "Nothing to redo"}
          >
            Redo
          </Button>
          <Button
            type="text"
            onClick={() => router.push(`/studies/${id}/history`)}
            title="Every change, and what stood before"
          >
            History
          </Button>
          <Button type="text" onClick={() => setPalette(true)}>
            Commands <kbd>Ctrl K</kbd>
          </Button>
          <Button type="text" onClick={() => setHelp(true)}>
            Help
          </Button>
          <Who className={css.who} />
        </div>
      </header>
      <Trail />
      {children}
      <Clashes />
      <Refusals />
      <Tour />
      {palette && <Palette close={() => setPalette(false)} commands={commands()} />}
      {help && <Glossary close={() => setHelp(false)} />}
    </div>
  );
}
