"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { memo } from "react";
import { actionOf, type Evidence, messageText, type Reading, type ReadingAction } from "@/core/findings";
import { LinkButton } from "@/ui/parts/link-button";
import { useStable } from "@/ui/parts/use-stable";
import { useDesk, useDeskStore } from "../desk/store";
import css from "./shell.module.css";

const KIND = { finding: "Finding", caution: "Caution", "next step": "Next step" } as const;

/** Kinds of readings as a folded column counts them. */
const KINDS = [
  { kind: "finding", one: "finding", many: "findings" },
  { kind: "caution", one: "caution", many: "cautions" },
  { kind: "next step", one: "next step", many: "next steps" },
] as const;

/** The readings one by one; drawn anew only when they are others. */
const Articles = memo(function Articles({
  readings,
  show,
  act,
}: {
  readings: readonly Reading[];
  show: ((evidence: Evidence, about: string | undefined) => void) | undefined;
  act(action: ReadingAction): void;
}) {
  const choose = useDesk((d) => d.choose);
  const light = useDesk((d) => d.light);
  const id = useDesk((d) => d.id);
  const desk = useDeskStore();
  const router = useRouter();
  return (
    <>
      {readings.map((r) => (
        <article key={r.id} className={css.reading} data-kind={r.kind} data-reading={r.id}>
          <b>{KIND[r.kind]}</b>
          <p>{messageText("readings", r)}</p>
          <footer>
            {show && <LinkButton onClick={() => show(r.evidence, r.about)}>show</LinkButton>}
            {[r.action, r.other].map(
              (action) =>
                action && (
                  <Button
                    key={action.id}
                    size="small"
                    onClick={() => {
                      if (action.response) choose(action.response);
                      if (action.trial) light(action.trial);
                      const order = desk.getState().study.trials.find((t) => t.id === action.trial)?.order;
                      if (action.go === "bench") router.push(`/studies/${id}/bench#trial-${order ?? 1}`);
                      else if (action.go) router.push(`/studies/${id}/${action.go}`);
                      else act(action);
                    }}
                  >
                    {actionOf(action.id)}
                  </Button>
                ),
            )}
          </footer>
        </article>
      ))}
    </>
  );
});

/** The right column: what the evidence says now, each leading to where it stands. */
export function Readings({
  readings,
  late,
  onShow,
  onAct,
}: {
  readings: readonly Reading[];
  /** Those of the state before: dimmed until the new ones are there. */
  late: boolean;
  onShow?: ((evidence: Evidence, about: string | undefined) => void) | undefined;
  onAct?: ((action: ReadingAction) => void) | undefined;
}) {
  const folded = useDesk((d) => d.folded.readings);
  const fold = useDesk((d) => d.fold);
  const act = useStable((action: ReadingAction) => onAct?.(action));
  const show = useStable((evidence: Evidence, about: string | undefined) => onShow?.(evidence, about));
  const counts = KINDS.map(({ kind, one, many }) => {
    const n = readings.filter((r) => r.kind === kind).length;
    return n === 0 ? "" : `${n} ${n === 1 ? one : many}`;
  })
    .filter(Boolean)
    .join(" · ");
  if (folded)
    return (
      <aside className={`${css.side} ${css.readings} ${css.folded}`} aria-label="Readings, folded">
        <Button type="text" size="small" onClick={() => fold("readings")} title="Unfold readings ( ] )">
          {counts || "Readings"}
        </Button>
      </aside>
    );
  return (
    <aside
      className={`${css.side} ${css.readings}`}
      aria-label="Readings"
      aria-busy={late}
      data-late={late ? "yes" : "no"}
    >
      <div className={css.head}>
        <h2>Readings</h2>
        <Button type="text" size="small" onClick={() => fold("readings")} title="Fold ( ] )">
          {readings.length} · fold
        </Button>
      </div>
      {readings.length === 0 && (
        <p className="quiet small">Nothing to say yet. Readings appear as the evidence comes in.</p>
      )}
      <Articles readings={readings} show={onShow ? show : undefined} act={act} />
    </aside>
  );
}
