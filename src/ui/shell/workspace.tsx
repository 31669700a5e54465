"use client";
import { Button } from "antd";
import "../no-eval";
import Link from "next/link";
import { usePathname, useRouter } from "next/navigation";
import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { STATIONS, type Station } from "@/core/findings";
import type { Mark as NamedMoment, Study } from "@/core/study";
import { createDesk, DeskProvider, useDesk, useDeskStore } from "../desk/store";
import { Who } from "../parts/actor";
import { usePrefetched } from "../parts/overlays";
import { say } from "../parts/say";
import type { PaletteCommand } from "./palette";
import css from "./shell.module.css";
import { Mark } from "./stage-marker";
import { STATION_NAMES } from "./station-names";
import { startTour, tourOf } from "./touring";
import { Trail } from "./trail";
import { Clashes, Refusals } from "./unsaved";

const palettePart = () => import("./palette");
const renamePart = () => import("./rename");
const glossaryPart = () => import("./glossary");
const Glossary = lazy(() => glossaryPart().then((m) => ({ default: m.Glossary })));
const Tour = lazy(() => import("./tour").then((m) => ({ default: m.Tour })));
const Palette = lazy(() => palettePart().then((m) => ({ default: m.Palette })));
const Rename = lazy(() => renamePart().then((m) => ({ default: m.Rename })));

const SAVED = {
  saved: "all changes saved",
  saving: "saving…",
  offline: "not saved: the server does not answer; trying again",
  refused: "a change was refused: see below",
} as const;

/** The page stands before its way back is looked up. */
const RECALL_MS = 700;

function Title() {
  const title = useDesk((d) => d.study.title);
  const [naming, setNaming] = useState(false);
  const shown = (
    <Button type="text" className={css.title} title={`${title} (click to rename)`} onClick={() => setNaming(true)}>
      {title}
    </Button>
  );
  return naming ? (
    <Suspense fallback={shown}>
      <Rename close={() => setNaming(false)} />
    </Suspense>
  ) : (
    shown
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
  useEffect(() => {
    const timer = setTimeout(() => void desk.getState().recall(), RECALL_MS);
    return () => clearTimeout(timer);
  }, [desk]);
  usePrefetched(palettePart, renamePart, glossaryPart);
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
    { name: "Download a workbook", run: () => window.location.assign(`/api/studies/${id}/export?format=xlsx`) },
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
      <Suspense fallback={null}>{ready && tourOf(id) !== undefined && <Tour />}</Suspense>
      <Suspense fallback={null}>
        {palette && <Palette close={() => setPalette(false)} commands={commands()} />}
        {help && <Glossary close={() => setHelp(false)} />}
      </Suspense>
    </div>
  );
}
