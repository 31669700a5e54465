"use client";
import { Input } from "antd";
import { useState } from "react";
import { FilePick } from "./file-pick";
import { SHEET_FILES, sheetFile } from "./sheet-file";

/** As much of a long text as a field shows. */
const SHOWN = 20_000;

/** A sheet pasted as text, or taken from a workbook or text file; what is odd about a workbook is said below. */
export function SheetText({
  label,
  of,
  text,
  look,
  fail,
  height,
  placeholder,
}: {
  label: string;
  /** What the file holds, for who looks for its input. */
  of: string;
  text: string;
  look(text: string): void;
  /** The file cannot be read. */
  fail(sentence: string): void;
  height: number;
  placeholder?: string;
}) {
  const [remarks, setRemarks] = useState<readonly string[]>([]);
  const [busy, setBusy] = useState(false);
  const take = async (file: File): Promise<void> => {
    setBusy(true);
    const read = await sheetFile(file);
    setBusy(false);
    setRemarks(read.ok ? read.remarks : []);
    if (read.ok) look(read.text);
    else fail(read.sentence);
  };
  return (
    <>
      <Input.TextArea
        className="num"
        aria-label={label}
        style={{ width: "100%", height, padding: 8 }}
        value={text.length > SHOWN ? `${text.slice(0, SHOWN)}\n…` : text}
        {...(placeholder === undefined ? {} : { placeholder })}
        onChange={(e) => {
          setRemarks([]);
          look(e.target.value);
        }}
      />
      <div className="row" style={{ marginTop: 6 }}>
        <FilePick of={of} accept={SHEET_FILES} disabled={busy} take={(file) => void take(file)}>
          Choose a file
        </FilePick>
        <span className="small quiet" {...(busy ? { role: "status" } : {})}>
          {busy ? "reading the file…" : "a workbook (.xlsx), or text with commas, semicolons or tabs between"}
        </span>
      </div>
      {remarks.map((r) => (
        <p key={r} className="small quiet" style={{ marginTop: 4 }}>
          {r}
        </p>
      ))}
    </>
  );
}
