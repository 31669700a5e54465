"use client";
import { lazy, Suspense, useState } from "react";
import {
  code,
  type Edit,
  edit,
  type Factor,
  hardFactors,
  isNumeric,
  listed,
  type RangeWords,
  rangeOf,
  rangeText,
  readNumber,
  readRange,
  readSpan,
  type Setting,
  type Study,
} from "@/core";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { settingText } from "@/ui/parts/format";
import { PickCell } from "@/ui/parts/pick";
import { useTroubles } from "@/ui/parts/use-troubles";
import { colours } from "@/ui/theme/theme";
import { addFactor, pasteFactors, withRange } from "./actions";
import type { Asking } from "./ask-setting";
import { FactorMenu } from "./factor-menu";
import css from "./question.module.css";

// Fetched when it is first asked.
const AskSetting = lazy(() => import("./ask-setting").then((m) => ({ default: m.AskSetting })));

const CHANGES: [Factor["change"], string][] = [
  ["easy", "easy"],
  ["hard", "hard"],
];

/** A factor's range with its settable positions, hard limits and the trials that stand on it. */
function RangePicture({ factor, study }: { factor: Factor; study: Study }) {
  const width = 118;
  if (!isNumeric(factor))
    return (
      <svg width={width} height="22" role="img" aria-label={`${factor.levels.length} levels`}>
        {factor.levels.slice(0, 8).map((l, i) => (
          <g key={l}>
            <circle
              cx={10 + (i * (width - 20)) / Math.max(1, Math.min(7, factor.levels.length - 1))}
              cy="11"
              r="4"
              fill="none"
              stroke={colours.heather}
              strokeWidth="1.500"
            />
          </g>
        ))}
      </svg>
    );
  const [low, high] = rangeOf(factor);
  const hard = factor.kind === "continuous" ? [factor.hardLow ?? low, factor.hardHigh ?? high] : [low, high];
  const x = (v: number): number => 18 + ((code(factor, v) + 1) / 2) * (width - 36);
  const step = factor.kind === "continuous" ? factor.step : undefined;
  const count = step === undefined ? 0 : Math.floor((high - low) / step + 1e-9) + 1;
  const marks =
    factor.kind === "discrete"
      ? factor.values
      : count > 0 && count <= 41 && step !== undefined
        ? Array.from({ length: count }, (_, i) => low + i * step)
        : [];
  const used = [...new Set(study.trials.map((t) => t.settings[factor.id] as number))];
  return (
    <svg
      width={width}
      height="22"
      role="img"
      aria-label={`${settingText(low)} to ${settingText(high)}${count > 0 ? `, ${count} positions` : ""}`}
    >
      <line
        x1={Math.max(2, x(hard[0]))}
        x2={Math.min(width - 2, x(hard[1]))}
        y1="12"
        y2="12"
        stroke="#C9C1AE"
        strokeWidth="2"
      />
      <line x1={x(low)} x2={x(high)} y1="12" y2="12" stroke={colours.heather} strokeWidth="3" />
      {marks.map((m) => (
        <line key={m} x1={x(m)} x2={x(m)} y1="7" y2="12" stroke={colours.heather} strokeWidth={count > 25 ? 0.6 : 1} />
      ))}
      {used.map((v) => (
        <circle key={v} cx={Math.max(3, Math.min(width - 3, x(v)))} cy="17" r="1.800" fill={colours.loch} />
      ))}
    </svg>
  );
}

/** What setting the hard factors anew costs beside a trial; asked where a factor is hard to change. */
function SetupCost({ onTrouble }: { onTrouble: ReturnType<typeof useTroubles>["tell"] }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const hard = hardFactors(study);
  if (hard.length === 0) return null;
  return (
    <span className="row small" style={{ gap: 4, marginLeft: "auto" }}>
      <span className="quiet" title={`Setting ${listed(hard.map((f) => f.name))} anew, in trials`}>
        Setting {listed(hard.map((f) => f.letter))} anew costs
      </span>
      <DraftField
        name="setupCost"
        label="Cost of a set-up, in trials"
        mono
        align="right"
        width={46}
        value={study.setupCost === undefined ? "" : String(study.setupCost)}
        placeholder="0"
        onTrouble={onTrouble}
        take={(t) => {
          const v = readNumber(t);
          if (v === undefined || (v !== null && (v < 0 || v > 10000)))
            return `The cost of a set-up “${t}” must be a number of trials from 0 to 10,000, or empty.`;
          return commit([edit(study, ["setupCost"], v)], "cost of a set-up");
        }}
      />
      <span className="quiet">trials</span>
    </span>
  );
}

const WIDTHS: [string, number | string][] = [
  ["letter", 34],
  ["factor", "21%"],
  ["unit", "8%"],
  ["range", "18%"],
  ["step", "8%"],
  ["tolerance", "8%"],
  ["limits", "13%"],
  ["change", "11%"],
  ["positions", 124],
  ["menu", 34],
];

/** What is set: one dense table; the last row takes a new factor by name, unit and range. */
export function FactorTable() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const { first, tell } = useTroubles();
  const [asking, setAsking] = useState<Asking | undefined>(undefined);
  const [draft, setDraft] = useState({ name: "", unit: "", generation: 0 });
  const [notice, setNotice] = useState<string | undefined>(undefined);
  const put = (f: Factor, key: string, value: Edit["to"] | undefined, what: string): string | undefined =>
    commit([edit(study, ["factors", f.id, key], value ?? null)], `${what} of ${f.name}`);

  const create = (name: string, unit: string, range: RangeWords): string | undefined => {
    const finish = (held?: Setting): string | undefined => {
      const refused = commit(addFactor(study, name, range, { unit }, held), `added ${name}`);
      if (!refused) setDraft((d) => ({ name: "", unit: "", generation: d.generation + 1 }));
      return refused;
    };
    if (study.trials.length === 0) return finish();
    const levels = range.kind === "categorical" ? range.levels : undefined;
    setAsking({
      title: `Where did ${name} stand until now?`,
      text: `${study.trials.length} trials are in the ledger already. Say what ${name} was held at in them; nothing else of theirs changes.`,
      factor: { name, unit, ...(levels ? { levels } : {}) },
      value: levels
        ? levels[0]
        : range.kind === "continuous"
          ? String((range.low + range.high) / 2)
          : String((range as { values: number[] }).values[0]),
      done: `Add ${name}`,
      leave: "Do not add it",
      take: finish,
    });
    return undefined;
  };
  const changeRange = (f: Factor, text: string): string | undefined => {
    const range = readRange(text);
    if (!range.ok) return `${f.name}: ${range.sentence}`;
    return commit(
      [
        {
          path: ["factors", f.id],
          from: JSON.parse(JSON.stringify(f)) as Edit["from"],
          to: JSON.parse(JSON.stringify(withRange(f, range.value))) as Edit["to"],
        },
      ],
      `range of ${f.name}`,
    );
  };
  const rows = study.factors;
  return (
    <section id="factors" aria-label="Factors">
      <div className={css.section}>
        <h2>What is set</h2>
        <span className="small quiet">
          A range like 52 to 68, listed values like 1, 2, 4, or levels like hill, lowland.
        </span>
        <SetupCost onTrouble={tell} />
      </div>
      <table className={css.table} data-grid="factors">
        <colgroup>
          {WIDTHS.map(([name, width]) => (
            <col key={name} style={{ width }} />
          ))}
        </colgroup>
        <thead>
          <tr>
            <th />
            <th>Factor</th>
            <th>Unit</th>
            <th>Range or levels</th>
            <th style={{ textAlign: "right" }}>Step</th>
            <th style={{ textAlign: "right" }}>± set</th>
            <th>Hard limits</th>
            <th>To change</th>
            <th>Positions</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((f, row) => (
            <tr key={f.id} data-retired={f.retired === undefined ? "no" : "yes"}>
              <td className="num quiet" style={{ textAlign: "center" }}>
                {f.letter}
              </td>
              <td>
                <DraftField
                  name={`${f.id}:name`}
                  label={`Factor ${row + 1} name`}
                  value={f.name}
                  row={row}
                  col={0}
                  onTrouble={tell}
                  take={(t) =>
                    t.trim() === ""
                      ? "A factor needs a name; type one, or remove the row from its menu."
                      : put(f, "name", t.trim(), "name")
                  }
                />
              </td>
              <td>
                <DraftField
                  name={`${f.id}:unit`}
                  label={`${f.name} unit`}
                  value={f.unit ?? ""}
                  placeholder="–"
                  row={row}
                  col={1}
                  take={(t) => put(f, "unit", t.trim() || null, "unit")}
                />
              </td>
              <td>
                <DraftField
                  name={`${f.id}:range`}
                  label={`${f.name} range or levels`}
                  mono={isNumeric(f)}
                  value={rangeText(f)}
                  row={row}
                  col={2}
                  onTrouble={tell}
                  check={(t) => {
                    const range = readRange(t);
                    return range.ok ? undefined : `${f.name}: ${range.sentence}`;
                  }}
                  take={(t) => changeRange(f, t)}
                />
              </td>
              <td>
                {f.kind === "continuous" && (
                  <DraftField
                    name={`${f.id}:step`}
                    label={`${f.name} step`}
                    mono
                    align="right"
                    value={f.step === undefined ? "" : String(f.step)}
                    placeholder="any"
                    row={row}
                    col={3}
                    onTrouble={tell}
                    take={(t) => {
                      const v = readNumber(t);
                      if (v === undefined || (v !== null && v <= 0))
                        return `${f.name}: the step “${t}” must be a number above 0, or empty when any value can be set.`;
                      return put(f, "step", v, "step");
                    }}
                  />
                )}
              </td>
              <td>
                {f.kind === "continuous" && (
                  <DraftField
                    name={`${f.id}:tolerance`}
                    label={`${f.name} setting tolerance`}
                    mono
                    align="right"
                    value={f.tolerance === undefined ? "" : String(f.tolerance)}
                    placeholder="0"
                    row={row}
                    col={4}
                    onTrouble={tell}
                    take={(t) => {
                      const v = readNumber(t);
                      if (v === undefined || (v !== null && v < 0))
                        return `${f.name}: the tolerance “${t}” must be a number, how far a setting may be off.`;
                      return put(f, "tolerance", v, "tolerance");
                    }}
                  />
                )}
              </td>
              <td>
                {f.kind === "continuous" && (
                  <DraftField
                    name={`${f.id}:hard`}
                    label={`${f.name} hard limits`}
                    mono
                    value={
                      f.hardLow === undefined && f.hardHigh === undefined
                        ? ""
                        : `${f.hardLow ?? f.low} to ${f.hardHigh ?? f.high}`
                    }
                    placeholder="the range"
                    row={row}
                    col={5}
                    onTrouble={tell}
                    take={(t) => {
                      const span = readSpan(t);
                      if (!span.ok) return `${f.name}: ${span.sentence}`;
                      return commit(
                        [
                          edit(study, ["factors", f.id, "hardLow"], span.value?.[0] ?? null),
                          edit(study, ["factors", f.id, "hardHigh"], span.value?.[1] ?? null),
                        ],
                        `hard limits of ${f.name}`,
                      );
                    }}
                  />
                )}
              </td>
              <td>
                {f.retired === undefined ? (
                  <PickCell
                    label={`${f.name} to change`}
                    value={f.change}
                    options={CHANGES}
                    row={row}
                    col={6}
                    set={(change) => put(f, "change", change, "change")}
                  />
                ) : (
                  <span className="small" style={{ paddingLeft: 6 }}>
                    held at {settingText(f.retired)}
                  </span>
                )}
              </td>
              <td>
                <RangePicture factor={f} study={study} />
              </td>
              <td>
                <FactorMenu
                  study={study}
                  factor={f}
                  first={row === 0}
                  last={row === rows.length - 1}
                  ask={setAsking}
                  notice={setNotice}
                />
              </td>
            </tr>
          ))}
          <tr key={`new-${draft.generation}`}>
            <td />
            <td>
              <DraftField
                name="new-factor:name"
                label="New factor name"
                value={draft.name}
                placeholder="Add a factor"
                row={rows.length}
                col={0}
                autoFocus={draft.generation > 0}
                onPasteBlock={(text) => {
                  if (study.trials.length > 0) {
                    setNotice(
                      "Trials exist already, so add factors one by one: each asks what those trials were held at.",
                    );
                    return true;
                  }
                  const { edits, problems, count } = pasteFactors(study, text);
                  setNotice(
                    count > 0
                      ? (commit(edits, `pasted ${count} factors`) ?? problems[0])
                      : (problems[0] ?? "No rows were found in what was pasted."),
                  );
                  return true;
                }}
                onTrouble={tell}
                take={(t) => {
                  const clash =
                    study.factors.some((f) => f.name.toLowerCase() === t.trim().toLowerCase()) ||
                    study.responses.some((r) => r.name.toLowerCase() === t.trim().toLowerCase());
                  if (clash) return `The name “${t.trim()}” is used twice; give each its own.`;
                  setDraft({ ...draft, name: t.trim() });
                  return undefined;
                }}
              />
            </td>
            <td>
              <DraftField
                name="new-factor:unit"
                label="New factor unit"
                value={draft.unit}
                placeholder="unit"
                row={rows.length}
                col={1}
                take={(t) => {
                  setDraft({ ...draft, unit: t.trim() });
                  return undefined;
                }}
              />
            </td>
            <td>
              <DraftField
                name="new-factor:range"
                label="New factor range or levels"
                mono
                value=""
                placeholder="52 to 68"
                row={rows.length}
                col={2}
                onTrouble={tell}
                take={(t) => {
                  if (t.trim() === "") return undefined;
                  const range = readRange(t);
                  if (!range.ok) return range.sentence;
                  if (draft.name === "")
                    return "Name the factor first, in the cell to the left; the range typed stays.";
                  return create(draft.name, draft.unit, range.value);
                }}
              />
            </td>
            <td colSpan={6} className="small quiet">
              Enter adds it; or paste rows: name, unit, low, high, step
            </td>
          </tr>
        </tbody>
      </table>
      {(first ?? notice) && (
        <p className={css.wrong} role="alert">
          {first ?? notice}
        </p>
      )}
      <Suspense fallback={null}>{asking && <AskSetting asking={asking} close={() => setAsking(undefined)} />}</Suspense>
    </section>
  );
}
