"use client";
import { rowsText } from "@/core/formats";
import type { Trial } from "@/core/study";
import { copyText } from "@/ui/parts/copy-text";
import { LinkButton } from "@/ui/parts/link-button";
import { saveText } from "@/ui/parts/save-text";
import css from "./trials.module.css";

/** Below the ledger: what was refused, why the trial is left out, what may be done with marked cells, or the keys. */
export function LedgerFoot({
  sentence,
  trial: current,
  marked,
  copied,
}: {
  sentence: string | undefined;
  trial: Trial | undefined;
  /** Cells marked. */
  marked: number;
  copied(headed: boolean): string[][];
}) {
  const copy = (headed: boolean): void =>
    copyText(
      rowsText(copied(headed), "\t"),
      headed ? "Cells copied under their headings" : "Cells copied",
      "use Ctrl C in the ledger.",
    );
  return (
    <div className={css.foot}>
      {sentence ? (
        <span className="danger" role="alert">
          {sentence}
        </span>
      ) : current && !current.use && current.why ? (
        <span>
          Trial {current.order} is left out of models: {current.why}
        </span>
      ) : marked > 1 ? (
        <span className="row small" style={{ gap: 10 }}>
          {marked.toLocaleString("en")} cells marked
          <LinkButton className="small" onClick={() => copy(false)}>
            copy
          </LinkButton>
          <LinkButton className="small" onClick={() => copy(true)}>
            copy with headings
          </LinkButton>
          <LinkButton className="small" onClick={() => saveText(rowsText(copied(true), ","), "cells.csv")}>
            CSV
          </LinkButton>
        </span>
      ) : (
        <span className="quiet small">
          Type to enter, Enter moves down, Tab right; repeats with spaces between; a setting typed over is kept as run.
          Paste a block with or without headings; Shift and arrows mark cells to copy.
        </span>
      )}
    </div>
  );
}
