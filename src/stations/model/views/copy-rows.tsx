"use client";
import { say } from "@/ui/parts/say";

/** Copies a table's rows as tab-separated text, full precision. */
export function CopyRows({ rows, what }: { rows: (string | number | null | undefined)[][]; what: string }) {
  return (
    <button
      type="button"
      className="link small"
      onClick={() => {
        navigator.clipboard
          .writeText(rows.map((r) => r.map((c) => c ?? "").join("\t")).join("\n"))
          .then(() => say(`${what} copied as tab-separated text`, "done"))
          .catch(() => say("The browser does not let this page copy; select the table and copy it by hand."));
      }}
    >
      copy
    </button>
  );
}
