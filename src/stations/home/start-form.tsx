"use client";
import { Button, Input } from "antd";
import { useState } from "react";
import css from "./home.module.css";

/** Names a study and begins it, blank or with trials that were run already. */
export function StartForm({
  busy,
  refused,
  start,
}: {
  busy: boolean;
  refused: boolean;
  /** @param then where in the new study to go on */
  start(title: string, then: "" | "#sheet"): void;
}) {
  const [title, setTitle] = useState("");
  return (
    <form
      className={css.card}
      onSubmit={(e) => {
        e.preventDefault();
        start(title.trim(), "");
      }}
    >
      <h2>Start a study</h2>
      <p>One question about one process. Give it a name; everything else comes after.</p>
      <Input
        aria-label="Name of the new study"
        placeholder="e.g. Dye bath, evenness and cost"
        maxLength={200}
        value={title}
        onChange={(e) => setTitle(e.target.value)}
        status={refused && title === "" ? "error" : ""}
        aria-invalid={refused && title === ""}
      />
      <div className="row" style={{ gap: 8 }}>
        <Button htmlType="submit" type="primary" disabled={busy}>
          Start blank
        </Button>
        <Button
          disabled={busy}
          title="Trials that were run already make the study"
          onClick={() => start(title.trim(), "#sheet")}
        >
          From a sheet…
        </Button>
      </div>
    </form>
  );
}
