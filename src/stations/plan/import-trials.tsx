"use client";
import { Input } from "antd";
import { useState } from "react";
import { messageText } from "@/core/findings";
import { type ForeignWave, waveFromSheet } from "@/core/formats";
import { type Edit, StudyError } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { Modal } from "@/ui/parts/overlays";
import { SheetText } from "@/ui/parts/sheet-text";

/** Takes trials run elsewhere as a wave: what was understood is shown before anything is taken. */
export function ImportTrials({ close }: { close(took: boolean): void }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [text, setText] = useState("");
  const [name, setName] = useState("Trials run elsewhere");
  const [read, setRead] = useState<ForeignWave | undefined>(undefined);
  const [sentence, setSentence] = useState<string | undefined>(undefined);
  const look = (body: string, as = name): void => {
    setText(body);
    try {
      setRead(body.trim() === "" ? undefined : waveFromSheet(study, body, as.trim() || "Trials run elsewhere"));
      setSentence(undefined);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      setRead(undefined);
      setSentence(error.message);
    }
  };
  const take = (): void => {
    if (!read) return;
    const plain = (x: object): Edit["to"] => JSON.parse(JSON.stringify(x)) as Edit["to"];
    const refused = commit(
      [
        { path: ["waves", read.wave.id], from: null, to: plain(read.wave) },
        ...read.trials.map((t): Edit => ({ path: ["trials", t.id], from: null, to: plain(t) })),
      ],
      `took ${read.trials.length} trials run elsewhere`,
    );
    if (refused) setSentence(refused);
    else close(true);
  };
  const count = read?.trials.length ?? 0;
  return (
    <Modal
      open
      onCancel={() => close(false)}
      title="Trials run elsewhere"
      width={720}
      okText={count === 0 ? "Nothing to take" : `Take ${count} ${count === 1 ? "trial" : "trials"} as a wave`}
      cancelText="Leave"
      okButtonProps={{ disabled: count === 0 }}
      onOk={take}
    >
      <p className="small quiet" style={{ marginBottom: 6 }}>
        Cells from a spreadsheet with their headings, or a file: one row a trial, a column for every factor, and results
        where there are any. They become a wave of their own and are appraised like any plan.
      </p>
      <div className="row" style={{ marginBottom: 6 }}>
        <label className="row">
          name
          <Input
            value={name}
            maxLength={80}
            onChange={(e) => {
              setName(e.target.value);
              if (text) look(text, e.target.value);
            }}
          />
        </label>
      </div>
      <SheetText
        label="Trials as text"
        of="trials"
        text={text}
        look={(body) => look(body)}
        fail={(why) => {
          setRead(undefined);
          setSentence(why);
        }}
        height={150}
      />
      {sentence && (
        <p className="danger small" role="alert" style={{ marginTop: 6 }}>
          {sentence}
        </p>
      )}
      {read && (
        <div className="small" style={{ marginTop: 6 }} role="status">
          <p>
            {read.trials.length} {read.trials.length === 1 ? "trial" : "trials"}, {read.withResults} with results.
            {read.untaken.length > 0 && ` Not used: ${read.untaken.map((u) => u.column).join(", ")}.`}
          </p>
          {read.problems.slice(0, 4).map((p) => (
            <p key={p.row} className="warning">
              {messageText("rows", p.said)}
            </p>
          ))}
          {read.problems.length > 4 && <p className="warning">… and {read.problems.length - 4} more rows.</p>}
        </div>
      )}
    </Modal>
  );
}
