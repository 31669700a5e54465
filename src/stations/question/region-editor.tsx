"use client";
import { Button, Input } from "antd";
import { useMemo, useState } from "react";
import { readRegion } from "@/core/formats";
import {
  activeFactors,
  edit,
  excludedShares,
  forbiddenText,
  isNumeric,
  limitText,
  type NumericFactor,
  type Study,
} from "@/core/study";
import { Band } from "@/ui/charts/marks/band";
import { Hatch } from "@/ui/charts/marks/hatch";
import { useDesk } from "@/ui/desk/store";
import { clip } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import css from "./question.module.css";

const CELLS = 16;
const SIZE = 64;

/** Two-factor projections: dark where every setting of the others is excluded, hatched where some are. */
function Projections({ study }: { study: Study }) {
  const named = useMemo(() => {
    const ids = new Set([
      ...study.region.limits.flatMap((l) => Object.keys(l.terms)),
      ...study.region.forbidden.flatMap((c) => Object.keys(c)),
    ]);
    return activeFactors(study)
      .filter((f): f is NumericFactor => isNumeric(f) && ids.has(f.id))
      .slice(0, 4);
  }, [study]);
  const pairs =
    named.length === 1
      ? [
          [
            named[0],
            activeFactors(study)
              .filter(isNumeric)
              .find((f) => f.id !== named[0].id),
          ] as const,
        ]
      : named.flatMap((a, i) => named.slice(i + 1).map((b) => [a, b] as const));
  const drawn = pairs.filter((p): p is readonly [NumericFactor, NumericFactor] => p[1] !== undefined);
  if (drawn.length === 0) return null;
  return (
    <div style={{ display: "flex", gap: 14, flexWrap: "wrap", maxWidth: 420 }}>
      {drawn.map(([a, b]) => {
        const cells = excludedShares(study, a, b, CELLS);
        return (
          <figure key={`${a.id}-${b.id}`} style={{ margin: 0 }}>
            <svg
              width={SIZE + 4}
              height={SIZE + 4}
              role="img"
              aria-label={`${a.name} against ${b.name}: shaded where the region excludes`}
            >
              <Band x={1} y={1} width={SIZE} height={SIZE} colour="raised" outline="rule" />
              <Hatch shares={cells} left={1} top={1} size={SIZE} />
            </svg>
            <figcaption className="small quiet" style={{ maxWidth: SIZE + 30 }}>
              {clip(b.name, 12)} over {clip(a.name, 12)}
            </figcaption>
          </figure>
        );
      })}
    </div>
  );
}

/** Limits and forbidden combinations, written and read as sentences. */
export function RegionEditor() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [text, setText] = useState("");
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const add = (): void => {
    if (text.trim() === "") return;
    const understood = readRegion(study, text);
    if (!understood.ok) {
      setSentence(understood.sentence);
      return;
    }
    const { limits, forbidden } = study.region;
    const region =
      understood.value.kind === "limit"
        ? { limits: [...limits, understood.value.limit], forbidden }
        : { limits, forbidden: [...forbidden, understood.value.forbidden] };
    const refused = commit([edit(study, ["region"], region)], "added to the region");
    setSentence(refused);
    if (!refused) setText("");
  };
  const { limits, forbidden } = study.region;
  return (
    <section id="region" aria-label="Region">
      <div className={css.section}>
        <h2>What must not be run</h2>
        <span className="small quiet">
          Beyond the ranges: a limit over several factors, or a combination that is forbidden.
        </span>
      </div>
      <div className={css.region}>
        <div>
          {limits.map((l, i) => (
            <div key={limitText(study, l)} className={css.rule}>
              <span className="grow num">{limitText(study, l)}</span>
              <LinkButton
                aria-label={`Remove ${limitText(study, l)}`}
                onClick={() =>
                  commit(
                    [edit(study, ["region"], { limits: limits.filter((_, j) => j !== i), forbidden })],
                    "removed a limit",
                  )
                }
              >
                remove
              </LinkButton>
            </div>
          ))}
          {forbidden.map((c, i) => (
            <div key={forbiddenText(study, c)} className={css.rule}>
              <span className="grow">never: {forbiddenText(study, c)}</span>
              <LinkButton
                aria-label={`Remove ${forbiddenText(study, c)}`}
                onClick={() =>
                  commit(
                    [edit(study, ["region"], { limits, forbidden: forbidden.filter((_, j) => j !== i) })],
                    "removed a combination",
                  )
                }
              >
                remove
              </LinkButton>
            </div>
          ))}
          <form
            className="row"
            onSubmit={(e) => {
              e.preventDefault();
              add();
            }}
          >
            <Input
              className="grow"
              aria-label="Add to the region"
              placeholder={`${study.factors.filter(isNumeric)[0]?.name ?? "Temperature"} + 4 × ${study.factors.filter(isNumeric)[1]?.name ?? "Dose"} ≤ 96,  or  Lot is lowland and Temperature is 64 to 68`}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <Button htmlType="submit">Add</Button>
          </form>
          {sentence && (
            <p className={css.wrong} role="alert">
              {sentence}
            </p>
          )}
        </div>
        <Projections study={study} />
      </div>
    </section>
  );
}
