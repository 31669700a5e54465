"use client";
import { useRouter } from "next/navigation";
import { actionOf, type Evidence, type Reading, sentenceOf } from "@/core";
import { useDesk } from "../desk/store";
import css from "./shell.module.css";

const KIND = { finding: "Finding", caution: "Caution", "next step": "Next step" } as const;

/** The right column: what the evidence says now, each leading to where it stands. */
export function Readings({
  readings,
  onShow,
}: {
  readings: readonly Reading[];
  onShow?: ((evidence: Evidence, about: string | undefined) => void) | undefined;
}) {
  const folded = useDesk((d) => d.folded.readings);
  const fold = useDesk((d) => d.fold);
  const choose = useDesk((d) => d.choose);
  const light = useDesk((d) => d.light);
  const id = useDesk((d) => d.id);
  const router = useRouter();
  if (folded)
    return (
      <aside className={`${css.side} ${css.readings} ${css.folded}`} aria-label="Readings, folded">
        <button type="button" onClick={() => fold("readings")} title="Unfold readings ( ] )">
          Readings · {readings.length}
        </button>
      </aside>
    );
  return (
    <aside className={`${css.side} ${css.readings}`} aria-label="Readings">
      <div className={css.head}>
        <h2>Readings</h2>
        <button type="button" onClick={() => fold("readings")} title="Fold ( ] )">
          {readings.length} · fold
        </button>
      </div>
      {readings.length === 0 && (
        <p className="quiet small">Nothing to say yet. Readings appear as the evidence comes in.</p>
      )}
      {readings.map((r) => (
        <article key={r.id} className={css.reading} data-kind={r.kind} data-reading={r.id}>
          <b>{KIND[r.kind]}</b>
          <p>{sentenceOf(r)}</p>
          <footer>
            {onShow && (
              <button type="button" className="link" onClick={() => onShow(r.evidence, r.about)}>
                show
              </button>
            )}
            {r.action && (
              <button
                type="button"
                className="btn small"
                onClick={() => {
                  if (r.action?.response) choose(r.action.response);
                  if (r.action?.trial) light(r.action.trial);
                  if (r.action?.go) router.push(`/studies/${id}/${r.action.go}`);
                }}
              >
                {actionOf(r.action.id)}
              </button>
            )}
          </footer>
        </article>
      ))}
    </aside>
  );
}
