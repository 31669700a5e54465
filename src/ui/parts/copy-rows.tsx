"use client";
import { copyText } from "./copy-text";
import { LinkButton } from "./link-button";
import { saveText } from "./save-text";

type Cell = string | number | null | undefined;

/** Copies a table's rows as tab-separated text, or saves them as CSV; full precision. */
export function CopyRows({ rows: given, what }: { rows: Cell[][] | (() => Cell[][]); what: string }) {
  // Rows of a large table are made when they are taken, not each time that it is drawn.
  const rows = (): Cell[][] => (typeof given === "function" ? given() : given);
  // What writes CSV is fetched when it is first wanted.
  const save = async (): Promise<void> => {
    const { default: Papa } = await import("papaparse");
    saveText(Papa.unparse(rows()), `${what}.csv`);
  };
  return (
    <span className="row small" style={{ gap: 8 }}>
      <LinkButton
        className="small"
        onClick={() =>
          copyText(
            rows()
              .map((r) => r.map((c) => c ?? "").join("\t"))
              .join("\n"),
            `${what} copied as tab-separated text`,
            "select the table and copy it by hand.",
          )
        }
      >
        copy
      </LinkButton>
      <LinkButton className="small" aria-label={`${what} as CSV`} onClick={() => void save()}>
        CSV
      </LinkButton>
    </span>
  );
}
