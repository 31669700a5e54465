// biome-ignore-all lint/a11y/useFocusableInteractive: one cell at a time has the focus, by the grid that holds them.
// biome-ignore-all lint/a11y/useKeyWithClickEvents: the keys are the grid's.
"use client";
import { type KeyboardEvent, memo, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { counted } from "@/core/findings";
import { type BlockEffect, effectOnResponseScale, type Rung } from "@/core/model";
import type { Fitted } from "@/core/questions";
import { alphabetOf, type Study, termLetters } from "@/core/study";
import { linear } from "@/ui/charts/marks/axis";
import { useDesk } from "@/ui/desk/store";
import { clip, figure, pShown } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Bar, RungFigures } from "./bar";
import { BlockEffects } from "./block-effects";
import css from "./model.module.css";

const SHOWN_OTHERS = 20;
/** Height of a rung, px. */
const RUNG = 31;
/** Rungs drawn above and below those in sight, so that scrolling finds them standing. */
const SPARE = 2;

/** A term's name that fits its place: in a pair, long names are cut each. */
function shortTerm(study: Study, rung: Rung): string {
  if (rung.name.length <= 25 || rung.term.length < 2) return rung.name;
  const names = rung.term.map((id) => study.factors.find((f) => f.id === id)?.name ?? id);
  // A power: the sign at the end of its name must stay.
  if (rung.term.every((id) => id === rung.term[0])) return clip(names[0], 24) + rung.name.slice(names[0].length);
  return names.map((n) => clip(n, n.length <= 9 ? n.length : 12)).join(" × ");
}

/** One rung; drawn anew only when its own figures change. */
const RungRow = memo(function RungRow({
  study,
  rung: r,
  position,
  count,
  reach,
  unit,
  own,
  current,
  at,
  toggle,
}: {
  study: Study;
  rung: Rung;
  /** Its size on the response's own scale about the probe, where the bars stand on another. */
  own: string | undefined;
  /** Which it is of how many, for those who hear the list. */
  position: number;
  count: number;
  reach: number;
  unit: string;
  current: boolean;
  at(key: string): void;
  toggle(key: string, force: boolean): void;
}) {
  const alphabet = alphabetOf(study);
  const chain = r.aliases.map((t) => termLetters(alphabet, t));
  const text = `${r.name}: ${r.lost ? "cannot be estimated beside the rest" : `${figure(r.size ?? 0, 3)} ${unit}${own ? `, ${own} at the probe` : ""}`}${r.p !== null ? `, ${pShown(r.p)}` : ""}${r.inModel ? ", in the model" : ""}${r.parentOnly ? ", kept for its interaction" : ""}${chain.length > 0 ? `, cannot be told from ${chain.join(", ")}` : ""}`;
  return (
    <div
      id={`rung-${r.key}`}
      data-key={r.key}
      role="option"
      aria-selected={r.inModel}
      aria-posinset={position}
      aria-setsize={count}
      aria-current={current}
      // Written down when pointed at, since most rungs never are.
      onPointerEnter={(e) => {
        e.currentTarget.title = text;
      }}
      className={css.rung}
      data-in={r.inModel ? "yes" : "no"}
      onClick={() => at(r.key)}
      onDoubleClick={(e) => toggle(r.key, e.shiftKey)}
    >
      <div className={css.term}>
        <span className="hidden">{text}</span>
        <span aria-hidden="true">
          {shortTerm(study, r)}
          {r.level ? ` [${r.level}]` : ""}
        </span>
        {(own !== undefined || chain.length > 0) && (
          <small>
            {own && <em>{chain.length === 0 ? `${own} at probe` : `${own} · `}</em>}
            {chain.length > 0 && (
              <>
                {termLetters(alphabet, r.term)} = {chain.slice(0, 3).join(" = ")}
                {chain.length > 3 ? " = …" : ""}
              </>
            )}
          </small>
        )}
      </div>
      <Bar rung={r} reach={reach} />
      <div className={css.figures}>
        <RungFigures rung={r} />
      </div>
    </div>
  );
});

/** A size of a share in points, of a count as a ratio of rates. */
function ownText({ fit }: Fitted, middle: number, { size }: Rung): string | undefined {
  const said = size === null ? undefined : effectOnResponseScale(fit.model.link, middle, size);
  if (!said) return undefined;
  if ("ratio" in said) return `× ${figure(said.ratio, 2)}`;
  return `${said.points > 0 ? "+" : ""}${figure(said.points, 2)} pts`;
}

/** Sizes on a link say little by themselves: what each comes to where the probe stands. */
function useOwnSizes(fitted: Fitted): (rung: Rung) => string | undefined {
  const probe = useDesk((d) => (fitted.fit.model.link.multiplies ? d.probe : undefined));
  const middle = probe ? fitted.predictor.fitted(probe) : 0;
  return (rung) => ownText(fitted, middle, rung);
}

/** Shows the quiet terms that are folded away, or folds them. */
const QuietTerms = ({ hidden, unfolded, fold }: { hidden: number; unfolded: boolean; fold(): void }) =>
  hidden <= 0 ? null : (
    <LinkButton className="small" style={{ padding: "4px 9px", textAlign: "left", flex: "none" }} onClick={fold}>
      {unfolded ? "fold the quiet terms" : counted(hidden, "quiet term")}
    </LinkButton>
  );

/** Marks of size above the rungs: zero and the ends where there is no room for more. */
function LadderAxis({ reach }: { reach: number }) {
  const x = linear([-reach, reach], [0, 100]);
  const ticks = x.ticks(3);
  const marks = ticks.length > 3 ? [ticks[0], 0, ticks[ticks.length - 1]] : ticks;
  return (
    <div className={css.axis} style={{ marginLeft: "calc((100% - 9px) * 0.44 + 9px)" }} aria-hidden="true">
      {marks.map((t) => (
        <span
          key={t}
          className="num quiet"
          style={{ position: "absolute", left: `${x(t)}%`, transform: "translateX(-50%)", fontSize: 11 }}
        >
          {t > 0 ? `+${figure(t)}` : figure(t)}
        </span>
      ))}
    </div>
  );
}

/**
 * The effect ladder: one rung per candidate term. Up and down move, space takes a term in or out; the order holds
 * until it is sorted again, so that no rung leaves the cursor.
 */
export function EffectLadder({
  study,
  fitted,
  unit,
  toggle,
  stand,
  marked,
}: {
  study: Study;
  fitted: Fitted;
  unit: string;
  toggle(rung: Rung, force: boolean): void;
  /** Takes waves or curvature in or out. */
  stand(rung: BlockEffect, inModel: boolean): void;
  marked: string | undefined;
}) {
  const { rungs, standing, shareOf } = fitted.ladder;
  const response = fitted.fit.response;
  const order = useRef<{ response: string; keys: string[] }>({ response: "", keys: [] });
  const [, redraw] = useState(0);
  const [at, setAt] = useState<string | undefined>(undefined);
  const [unfolded, setUnfolded] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const byKey = useMemo(() => new Map(rungs.map((r) => [r.key, r])), [rungs]);
  const sorted = useMemo(() => rungs.map((r) => r.key), [rungs]);
  if (order.current.response !== response) order.current = { response, keys: sorted };
  const held = [
    ...order.current.keys.filter((k) => byKey.has(k)),
    ...sorted.filter((k) => !order.current.keys.includes(k)),
  ];
  const stale = held.some((k, i) => k !== sorted[i]);
  // Folding follows the held order, so that taking a term out never hides it under the cursor.
  const others = held.filter((k) => !byKey.get(k)?.inModel);
  const folded = new Set(unfolded ? [] : others.slice(SHOWN_OTHERS));
  const shown = held.filter((k) => !folded.has(k) || k === at);
  const current = at && shown.includes(at) ? at : shown[0];
  useEffect(() => {
    if (marked && byKey.has(marked)) setAt(marked);
  }, [marked, byKey]);
  // Only rungs in sight are drawn: which those are follows from where the list is scrolled to.
  const [first, setFirst] = useState(0);
  const [fits, setFits] = useState(20);
  useLayoutEffect(() => {
    const list = box.current;
    if (!list) return;
    const watch = new ResizeObserver(() => setFits(Math.ceil(list.clientHeight / RUNG)));
    watch.observe(list);
    return () => watch.disconnect();
  }, []);
  const position = current === undefined ? -1 : shown.indexOf(current);
  useEffect(() => {
    const list = box.current;
    // Nothing to scroll to until somebody has moved: looking would make the browser lay the page out at once.
    if (!at || position < 0 || !list) return;
    if (position * RUNG < list.scrollTop) list.scrollTop = position * RUNG;
    else if ((position + 1) * RUNG > list.scrollTop + list.clientHeight)
      list.scrollTop = (position + 1) * RUNG - list.clientHeight;
  }, [at, position]);
  const from = Math.max(0, Math.min(first, shown.length - fits) - SPARE);
  const drawn = shown.slice(from, from + fits + 2 * SPARE);
  // The same function throughout, so that rungs whose figures stay are not drawn anew.
  const latest = useRef({ byKey, toggle });
  useEffect(() => {
    latest.current = { byKey, toggle };
  });
  const take = useCallback((key: string, force: boolean): void => {
    const rung = latest.current.byKey.get(key);
    if (rung) latest.current.toggle(rung, force);
  }, []);
  const ownOf = useOwnSizes(fitted);
  const inside = rungs.filter((r) => r.inModel);
  const reach =
    Math.max(
      ...[...rungs, ...standing].map((r) =>
        Math.max(Math.abs(r.size ?? 0), ...(r.inModel && r.interval ? r.interval.map(Math.abs) : [0])),
      ),
    ) * 1.04 || 1;
  const onKey = (e: KeyboardEvent): void => {
    const i = position;
    if (e.key === "ArrowDown" || e.key === "ArrowUp") {
      e.preventDefault();
      setAt(shown[Math.max(0, Math.min(shown.length - 1, i + (e.key === "ArrowDown" ? 1 : -1)))]);
    } else if (e.key === "Home" || e.key === "End") {
      e.preventDefault();
      setAt(e.key === "Home" ? shown[0] : shown[shown.length - 1]);
    } else if (e.key === " " || e.key === "Enter") {
      e.preventDefault();
      take(current ?? "", e.shiftKey);
    }
  };
  return (
    <>
      <div className="row small" style={{ justifyContent: "space-between", minHeight: 22 }}>
        <span>
          <span className="quiet">
            {inside.length} of {rungs.length} terms in ·
          </span>{" "}
          <kbd>space</kbd> <span className="quiet">in or out</span>
        </span>
        <span className="quiet">
          {stale ? (
            <LinkButton
              onClick={() => {
                order.current = { response, keys: sorted };
                redraw((n) => n + 1);
              }}
            >
              sort again
            </LinkButton>
          ) : (
            `share of ${shareOf === "total" ? "all variation" : "partial sums"}`
          )}
        </span>
      </div>
      <LadderAxis reach={reach} />
      <BlockEffects rungs={standing} reach={reach} unit={unit} set={stand} />
      <div
        ref={box}
        className={css.rungs}
        role="listbox"
        aria-multiselectable="true"
        tabIndex={0}
        aria-label={`Effect ladder of ${response}, ${unit}`}
        aria-activedescendant={current && drawn.includes(current) ? `rung-${current}` : undefined}
        onKeyDown={onKey}
        onScroll={(e) => setFirst(Math.floor(e.currentTarget.scrollTop / RUNG))}
        data-testid="ladder"
      >
        <div
          role="presentation"
          style={{ height: shown.length * RUNG, paddingTop: from * RUNG, boxSizing: "border-box" }}
        >
          {drawn.map((k, i) => (
            <RungRow
              key={k}
              study={study}
              rung={byKey.get(k) as Rung}
              position={from + i + 1}
              count={shown.length}
              reach={reach}
              unit={unit}
              own={ownOf(byKey.get(k) as Rung)}
              current={k === current}
              at={setAt}
              toggle={take}
            />
          ))}
        </div>
      </div>
      <QuietTerms hidden={others.length - SHOWN_OTHERS} unfolded={unfolded} fold={() => setUnfolded(!unfolded)} />
    </>
  );
}
