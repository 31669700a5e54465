"use client";
import { Checkbox, Segmented } from "antd";
import { useEffect, useState } from "react";
import { counted, messageText } from "@/core/findings";
import { type ImportPreview, importEdits, previewImport } from "@/core/formats";
import { edit, type Result, type Study, StudyError } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { settingText } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { Modal } from "@/ui/parts/overlays";
import { SheetText } from "@/ui/parts/sheet-text";
import { resultShown } from "./columns";
import css from "./trials.module.css";

export type Preview = ImportPreview & { positional?: true };

/** Columns and rows that are read as repeats, said before they are taken; rows are asked about. */
function Repeats({
  preview,
  name,
  rows,
  setRows,
}: {
  preview: Preview;
  name(id: string): string;
  rows: boolean;
  setRows(are: boolean): void;
}) {
  const { repeats, again } = preview;
  return (
    <>
      {repeats.map(({ response, columns }) => (
        <p key={response} className="small" title={columns.join(", ")}>
          {counted(columns.length, "column")} read as repeats of {name(response)}.
        </p>
      ))}
      {again > 0 && (
        <Checkbox checked={rows} onChange={(e) => setRows(e.target.checked)} style={{ margin: "4px 0" }}>
          {again === 1 ? "One row is" : `${again} rows are`} of a trial that stood in an earlier row: take{" "}
          {again === 1 ? "it as its repeat" : "them as its repeats"}
        </Checkbox>
      )}
    </>
  );
}

/** How many values a column for one trial holds. */
const manyOf = ({ values }: Preview): number | undefined => {
  const after = values[0]?.after;
  return Array.isArray(after) ? after.length : undefined;
};
/** More values of one trial than this are seldom repeats of one measurement. */
const FEW = 8;
/** Whether several values of its response are units that were made. */
const piecesOf = (study: Study, { values }: Preview): boolean =>
  study.responses.find((r) => r.id === values[0]?.response)?.several === "units";

/** What is to be looked at: a block laid over the ledger as it stands, or text with headings. */
export interface Given {
  block?: Preview;
  /** One column, all of it for one trial; and whether that is what is meant unless said. */
  whole?: Preview;
  together?: boolean;
  text?: string;
}

/** Each value that would be taken, beside what stands there now. */
function Changes({ preview, study, name }: { preview: Preview; study: Study; name(id: string): string }) {
  const shown = (id: string, value: Result): string => {
    const response = study.responses.find((r) => r.id === id);
    return response ? resultShown(value, response) : "";
  };
  return (
    <div style={{ maxHeight: 260, overflow: "auto" }}>
      <table className={css.preview}>
        <thead>
          <tr>
            <th>Trial</th>
            <th>What</th>
            <th>Now</th>
            <th>Then</th>
          </tr>
        </thead>
        <tbody>
          {preview.values.slice(0, 300).map((v) => (
            <tr key={`${v.trial}-${v.response}`}>
              <td className="num">{v.order}</td>
              <td>{name(v.response)}</td>
              <td className="num quiet">{shown(v.response, v.before) || "·"}</td>
              <td className="num">{shown(v.response, v.after)}</td>
            </tr>
          ))}
          {preview.settings.slice(0, 300).map((s) => (
            <tr key={`${s.trial}-${s.to}-${s.id}`}>
              <td className="num">{s.order}</td>
              <td>
                {name(s.id)}
                {s.to === "asRun" ? ", as run" : ""}
              </td>
              <td className="num quiet">{s.before === null ? "·" : settingText(s.before)}</td>
              <td className="num">{settingText(s.after)}</td>
            </tr>
          ))}
          {preview.setups.slice(0, 300).map((s) => (
            <tr key={`${s.trial} setup`}>
              <td className="num">{s.order}</td>
              <td>set-up</td>
              <td className="num quiet">{s.before ?? "·"}</td>
              <td className="num">{s.after}</td>
            </tr>
          ))}
          {preview.notes.map((n) => (
            <tr key={n.trial}>
              <td className="num">{n.order}</td>
              <td>note</td>
              <td />
              <td>{n.after}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Shows what a pasted block or a file would change, and by what match, before anything is taken. */
export function ImportDialog({ open, close, given }: { open: boolean; close(): void; given: Given | undefined }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [text, setText] = useState("");
  const [rowsAreRepeats, setRows] = useState(false);
  const [read, setRead] = useState<Preview | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const [together, setTogether] = useState<boolean | undefined>(undefined);
  const asOne = given?.whole !== undefined && (together ?? given.together ?? false);
  const preview = (asOne ? given?.whole : given?.block) ?? read;
  const look = (body: string, rows = rowsAreRepeats): void => {
    setText(body);
    setRows(rows);
    try {
      setRead(body.trim() === "" ? undefined : previewImport(study, body, { rowsAreRepeats: rows }));
      setSentence(undefined);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      setRead(undefined);
      setSentence(error.message);
    }
  };
  const count = preview
    ? preview.values.length + preview.settings.length + preview.notes.length + preview.setups.length
    : 0;
  const pasted = given?.text;
  // What was pasted into the ledger is looked at as it comes.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each paste; the study changes by what is taken.
  useEffect(() => {
    if (pasted !== undefined) look(pasted);
  }, [pasted]);
  const done = (): void => {
    setTogether(undefined);
    setRows(false);
    setText("");
    setRead(undefined);
    setSentence(undefined);
    close();
  };
  const take = (): void => {
    if (!preview) return;
    const refused = commit(importEdits(study, preview), `took ${count} ${count === 1 ? "value" : "values"}`);
    if (refused) setSentence(refused);
    else done();
  };
  const name = (id: string): string =>
    [...study.responses, ...study.factors, ...study.covariates].find((x) => x.id === id)?.name ?? id;
  return (
    <Modal
      open={open}
      onCancel={done}
      title={given ? "Paste into the ledger" : "Paste or import results"}
      width={760}
      okText={count === 0 ? "Nothing to take" : `Take ${count} ${count === 1 ? "value" : "values"}`}
      cancelText="Leave"
      okButtonProps={{ disabled: count === 0 }}
      onOk={take}
      destroyOnHidden
    >
      {!given && (
        <>
          <p className="small quiet" style={{ marginBottom: 6 }}>
            Cells from a spreadsheet with their headings, or a file. Rows are matched by trial number (a column “order”)
            or by their settings, never by position. Comma, semicolon, tab and decimal comma are recognised.
          </p>
          <SheetText
            label="Text to import"
            of="csv"
            text={text}
            look={look}
            fail={(why) => {
              setRead(undefined);
              setSentence(why);
            }}
            height={110}
            placeholder={"order\tgrease\twhite\n1\t0.61\t60.2"}
          />
        </>
      )}
      {sentence && (
        <p className="danger" role="alert" style={{ marginTop: 8 }}>
          {sentence}
        </p>
      )}
      {preview && (
        <>
          {given?.whole && (
            <Segmented<boolean>
              aria-label="Where the column goes"
              value={asOne}
              options={[
                { value: false, label: "One value a trial, downwards" },
                { value: true, label: `All into trial ${given.whole.matched[0].order}` },
              ]}
              onChange={setTogether}
            />
          )}
          <p style={{ marginTop: 10 }}>
            {asOne ? (
              <>
                <strong>{(manyOf(preview) ?? 0).toLocaleString("en")}</strong> values go to trial{" "}
                {preview.matched[0]?.order}, as {piecesOf(study, preview) ? "units made" : "repeats of one measurement"}
                .
                {!piecesOf(study, preview) && (manyOf(preview) ?? 0) > FEW && (
                  <>
                    {" "}
                    Are they units, made one by one?{" "}
                    <LinkButton
                      onClick={() => {
                        const { response } = preview.values[0];
                        setSentence(
                          commit(
                            [edit(study, ["responses", response, "several"], "units")],
                            `several values of ${name(response)}`,
                          ),
                        );
                      }}
                    >
                      They are units
                    </LinkButton>
                  </>
                )}
              </>
            ) : preview.positional ? (
              <>
                No headings were found, so lines go to the trials <strong>as they stand in the ledger</strong> from the
                chosen cell down: trials {preview.matched[0]?.order} to {preview.matched.at(-1)?.order}.
              </>
            ) : (
              <>
                <strong>{preview.matched.length}</strong> rows matched by <strong>{preview.by}</strong>
                {preview.untaken.length > 0 ? `; left aside: ${preview.untaken.map((u) => u.column).join(", ")}` : ""}
                {preview.decimal === "," ? "; decimal comma read" : ""}.
              </>
            )}
          </p>
          <Repeats preview={preview} name={name} rows={rowsAreRepeats} setRows={(are) => look(text, are)} />
          {preview.problems.length > 0 && (
            <ul className="warning small" style={{ margin: "6px 0 0", paddingLeft: 18 }}>
              {preview.problems.slice(0, 6).map((p) => (
                <li key={messageText("rows", p.said)}>{messageText("rows", p.said)}</li>
              ))}
              {preview.problems.length > 6 && <li>and {preview.problems.length - 6} more</li>}
            </ul>
          )}
          <Changes preview={preview} study={study} name={name} />
        </>
      )}
    </Modal>
  );
}
