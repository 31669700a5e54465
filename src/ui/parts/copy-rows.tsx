"use client";
import { rowsText } from "@/core/formats";
import { copyText } from "./copy-text";
import { LinkButton } from "./link-button";
import { saveText } from "./save-text";

type Cell = string | number | null | undefined;

/** Copies a table's rows as tab-separated text, or saves them as CSV; full precision. */
export function CopyRows({ rows: given, what }: { rows: Cell[][] | (() => Cell[][]); what: string }) {
  // Rows of a large table are made when they are taken, not each time that it is drawn.
  const rows = (): Cell[][] => (typeof given === "function" ? given() : given);
  return (
    <span className="row small" style={{ gap: 8 }}>
      <LinkButton
        className="small"
        onClick={() =>
          copyText(
            rowsText(rows(), "\t"),
            `${what} copied as tab-separated text`,
            "select the table and copy it by hand.",
          )
        }
      >
        copy
      </LinkButton>
      <LinkButton
        className="small"
        aria-label={`${what} as CSV`}
        onClick={() => saveText(rowsText(rows(), ","), `${what}.csv`)}
      >
        CSV
      </LinkButton>
    </span>
  );
}
