"use client";
import { Checkbox, InputNumber } from "antd";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useState } from "react";
import { counted, messageText } from "@/core/findings";
import { ROLES, type Role, type StartSheet, startFrom, startSheet } from "@/core/formats";
import { type Edit, reviseStudy, type Study, StudyError } from "@/core/study";
import { useQuestion } from "@/ui/compute/use-question";
import { useDesk } from "@/ui/desk/store";
import { Modal } from "@/ui/parts/overlays";
import { Pick } from "@/ui/parts/pick";
import { ScrollBox } from "@/ui/parts/scroll-box";
import { SheetText } from "@/ui/parts/sheet-text";
import css from "./question.module.css";

const ROLE_WORDS: Record<Role, string> = {
  factor: "factor, set",
  response: "response, measured",
  covariate: "measured beside, not set",
  order: "order run",
  note: "note",
  "left-out": "left out",
};

/** What a column holds, in a few values. */
function valuesText({ numbers, words }: StartSheet["columns"][number]): string {
  if (numbers && numbers.length > 0)
    return numbers.length <= 4
      ? numbers.join(", ")
      : `${numbers[0]} to ${numbers[numbers.length - 1]}, ${numbers.length} values`;
  return words ? `${words.slice(0, 3).join(", ")}${words.length > 3 ? ", …" : ""}` : "";
}

interface SheetState {
  sheet?: StartSheet;
  sentence?: string;
}

function read(text: string): SheetState {
  if (text.trim() === "") return {};
  try {
    return { sheet: startSheet(text) };
  } catch (error) {
    if (!(error instanceof StudyError)) throw error;
    return { sentence: error.message };
  }
}

/** What the trials of a sheet can tell, before they are taken. */
function Appraised({ study, edits }: { study: Study; edits: readonly Edit[] }) {
  const { start, result, running } = useQuestion("appraise");
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew for other edits alone.
  useEffect(() => {
    start(reviseStudy(study, [...edits]), { terms: "main+2fi" });
  }, [edits]);
  if (!result || running) return null;
  const { map, df } = result;
  const count = (state: (typeof map)[number]["state"]): number => map.filter((m) => m.state === state).length;
  const [shared, lost] = [count("shared"), count("lost")];
  return (
    <>
      {" "}
      Of {counted(map.length, "main effect or interaction", "main effects and interactions")} these trials tell{" "}
      {count("clear")} apart from all others
      {shared > 0 ? `, ${shared} with others` : ""}
      {lost > 0 ? `, ${lost} not at all` : ""}; {counted(df.pureError, "degree", "degrees")} of freedom of pure error.
    </>
  );
}

/** Begins a study with a sheet: each column's role is guessed, shown in one table and confirmed there. */
export function StartSheetDialog({ study, close }: { study: Study; close(): void }) {
  const id = useDesk((d) => d.id);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const [text, setText] = useState("");
  const [{ sheet, sentence }, setSheet] = useState<SheetState>({});
  const [refused, setRefused] = useState<string | undefined>(undefined);
  const [rowsAreRepeats, setRows] = useState(false);
  const look = (body: string): void => {
    setText(body);
    setRefused(undefined);
    setSheet(read(body));
  };
  const start = useMemo(() => {
    if (!sheet) return undefined;
    try {
      return { ok: true as const, made: startFrom(study, sheet, "From a sheet", { rowsAreRepeats }) };
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      return { ok: false as const, sentence: error.message };
    }
  }, [study, sheet, rowsAreRepeats]);
  const made = start?.ok ? start.made : undefined;
  const ready = made !== undefined && made.factors > 0 && made.trials > 0;
  const take = (): void => {
    if (!made) return;
    const wrong = commit(made.edits, "began with a sheet");
    if (wrong) setRefused(wrong);
    else {
      close();
      router.push(`/studies/${id}/trials`);
    }
  };
  const say = (at: number, more: Partial<StartSheet["columns"][number]>): void => {
    if (sheet)
      setSheet({ sheet: { ...sheet, columns: sheet.columns.map((c, i) => (i === at ? { ...c, ...more } : c)) } });
  };
  const stepless = (at: number): void => {
    if (!sheet) return;
    const { step: _step, ...rest } = sheet.columns[at];
    setSheet({ sheet: { ...sheet, columns: sheet.columns.map((c, i) => (i === at ? rest : c)) } });
  };
  const wrong = sentence ?? refused ?? (start && !start.ok ? start.sentence : undefined);
  return (
    <Modal
      open
      onCancel={close}
      title="Start from a sheet"
      width={860}
      okText={ready ? `Start with ${counted(made.trials, "trial")}` : "Nothing to start with"}
      cancelText="Leave"
      okButtonProps={{ disabled: !ready }}
      onOk={take}
    >
      <p className="small quiet" style={{ marginBottom: 6 }}>
        Cells copied from a spreadsheet with their headings, or a file: one row a trial. Factors, responses and a wave
        of trials are made of it.
      </p>
      <SheetText
        label="Sheet as text"
        of="sheet"
        text={text}
        look={look}
        fail={(sentence) => setSheet({ sentence })}
        height={sheet ? 80 : 190}
      />
      {sheet && (
        <ScrollBox name="Columns of the sheet">
          <table className={css.sheet} aria-label="What each column is">
            <thead>
              <tr>
                <th>Column</th>
                <th>holds</th>
                <th>is</th>
                <th title="Settings are whole numbers of steps; empty for any">step</th>
                <th aria-label="remark" />
              </tr>
            </thead>
            <tbody>
              {sheet.columns.map((c, i) => (
                <tr key={`${i} ${c.heading}`}>
                  <td>
                    <strong>{c.name || `column ${i + 1}`}</strong>
                    {c.unit && <span className="quiet"> {c.unit}</span>}
                    {c.repeat > 0 && <span className="quiet"> · repeat {c.repeat}</span>}
                  </td>
                  <td className="num quiet">{valuesText(c)}</td>
                  <td>
                    <Pick
                      label={`${c.heading || `column ${i + 1}`} is`}
                      value={c.role}
                      options={ROLES.map((r) => [r, ROLE_WORDS[r]])}
                      set={(role) => say(i, { role })}
                    />
                  </td>
                  <td>
                    {c.role === "factor" && c.numbers && (
                      <InputNumber
                        size="small"
                        aria-label={`${c.name || `column ${i + 1}`} step`}
                        value={c.step ?? null}
                        min={0}
                        placeholder="any"
                        style={{ width: 84 }}
                        onChange={(v) => (v === null || v <= 0 ? stepless(i) : say(i, { step: v }))}
                      />
                    )}
                  </td>
                  <td className="small quiet">
                    {c.why && (c.role === "left-out" || c.why.code === "column-odd")
                      ? messageText("columns", c.why)
                      : ""}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </ScrollBox>
      )}
      {sheet?.again && (
        <Checkbox checked={rowsAreRepeats} onChange={(e) => setRows(e.target.checked)} style={{ marginTop: 6 }}>
          {sheet.again.rows} rows have {counted(sheet.again.trials, "trial number")}: take the rows of one trial as its
          repeats
        </Checkbox>
      )}
      {wrong && (
        <p className="danger small" role="alert" style={{ marginTop: 6 }}>
          {wrong}
        </p>
      )}
      {made && (
        <div className="small" role="status" style={{ marginTop: 6 }}>
          {counted(made.factors, "factor")}, {counted(made.responses, "response")} and a wave of{" "}
          {counted(made.trials, "trial")}, {made.withResults} with results.
          {ready && <Appraised study={study} edits={made.edits} />}
          {made.problems.slice(0, 3).map((p) => (
            <p key={p.row} className="warning">
              {messageText("rows", p.said)}
            </p>
          ))}
          {made.problems.length > 3 && <p className="warning">… and {made.problems.length - 3} more rows.</p>}
        </div>
      )}
    </Modal>
  );
}
