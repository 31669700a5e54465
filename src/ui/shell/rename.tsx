"use client";
import { Input } from "antd";
import { useState } from "react";
import { edit } from "@/core/study";
import { useDesk } from "../desk/store";
import { say } from "../parts/say";
import css from "./shell.module.css";

/** The study's name while it is typed anew. */
export function Rename({ close }: { close(): void }) {
  const title = useDesk((d) => d.study.title);
  const commit = useDesk((d) => d.commit);
  const study = useDesk((d) => d.study);
  const [draft, setDraft] = useState(title);
  const take = (): void => {
    if (draft.trim() !== title) {
      const trouble =
        draft.trim() === ""
          ? "A study needs a name; the old one was kept."
          : commit([edit(study, ["title"], draft.trim())], "renamed the study");
      if (trouble) say(trouble);
    }
    close();
  };
  return (
    <Input
      className={css.title}
      variant="borderless"
      aria-label="Study name"
      autoFocus
      value={draft}
      maxLength={200}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === "Enter") take();
        if (e.key === "Escape") close();
      }}
    />
  );
}
