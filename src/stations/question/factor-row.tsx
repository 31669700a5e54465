"use client";
import { rangeText, readNumber, readRange, readSpan } from "@/core/formats";
import { type Edit, edit, type Factor, isNumeric } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { settingText } from "@/ui/parts/format";
import { PickCell } from "@/ui/parts/pick";
import type { useTroubles } from "@/ui/parts/use-troubles";
import { withRange } from "./actions";
import type { Asking } from "./ask-setting";
import { FactorMenu } from "./factor-menu";
import { RangePicture } from "./range-picture";

const CHANGES: [Factor["change"], string][] = [
  ["easy", "easy"],
  ["hard", "hard"],
];

type Tell = ReturnType<typeof useTroubles>["tell"];

/** One factor in the table: each cell is kept as it is left. */
export function FactorRow({
  factor: f,
  row,
  tell,
  ask,
  notice,
}: {
  factor: Factor;
  row: number;
  tell: Tell;
  ask(asking: Asking | undefined): void;
  notice(sentence: string | undefined): void;
}) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const put = (key: string, value: Edit["to"] | undefined, what: string): string | undefined =>
    commit([edit(study, ["factors", f.id, key], value ?? null)], `${what} of ${f.name}`);

  const changeRange = (text: string): string | undefined => {
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
  return (
    <tr data-retired={f.retired === undefined ? "no" : "yes"}>
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
              : put("name", t.trim(), "name")
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
          take={(t) => put("unit", t.trim() || null, "unit")}
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
          take={(t) => changeRange(t)}
        />
      </td>
      <SettableCells factor={f} row={row} tell={tell} put={put} />
      <td>
        {f.retired === undefined ? (
          <PickCell
            label={`${f.name} to change`}
            value={f.change}
            options={CHANGES}
            row={row}
            col={6}
            set={(change) => put("change", change, "change")}
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
          last={row === study.factors.length - 1}
          ask={ask}
          notice={notice}
        />
      </td>
    </tr>
  );
}

/** In which steps a factor is set, how far a setting may be off, and how far it can go at all. */
function SettableCells({
  factor: f,
  row,
  tell,
  put,
}: {
  factor: Factor;
  row: number;
  tell: Tell;
  put(key: string, value: Edit["to"] | undefined, what: string): string | undefined;
}) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  if (f.kind !== "continuous")
    return (
      <>
        <td />
        <td />
        <td />
      </>
    );
  return (
    <>
      <td>
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
            return put("step", v, "step");
          }}
        />
      </td>
      <td>
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
            return put("tolerance", v, "tolerance");
          }}
        />
      </td>
      <td>
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
      </td>
    </>
  );
}
