import type { BlockEffect, Rung } from "@/core/model";
import { percent, pShown } from "@/ui/parts/format";
import css from "./model.module.css";

/** One bar from the zero line with its interval; ghosts hollow, parents kept for hierarchy hatched. */
export function Bar({ rung, reach }: { rung: Rung | BlockEffect; reach: number }) {
  if (rung.lost || rung.size === null) return <div className={css.bar} />;
  const percent = (v: number): number => 50 + (50 * Math.max(-reach, Math.min(reach, v))) / reach;
  const along = (from: number, to: number) => ({
    left: `${Math.min(percent(from), percent(to)).toFixed(2)}%`,
    width: `${Math.abs(percent(to) - percent(from)).toFixed(2)}%`,
  });
  const kept = "parentOnly" in rung && rung.parentOnly;
  const kind = !rung.inModel ? "ghost" : "id" in rung ? "standing" : kept ? "parent" : "in";
  return (
    <div className={css.bar} data-kind={kind}>
      <i style={along(0, rung.size)} />
      {rung.interval && <b style={along(...rung.interval)} />}
    </div>
  );
}

/** Share and p of a rung; that it cannot be told where it is lost. */
export function RungFigures({ rung }: { rung: Rung | BlockEffect }) {
  if (rung.lost) return <span>not told</span>;
  return (
    <>
      {rung.share === null ? "" : percent(rung.share, rung.share < 0.0995 ? 1 : 0)}
      <br />
      <span>{pShown(rung.p)}</span>
    </>
  );
}
