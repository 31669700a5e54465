"use client";
import { useState } from "react";
import { type RangeWords, readRange } from "@/core/formats";
import type { Setting } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import type { useTroubles } from "@/ui/parts/use-troubles";
import { addFactor, pasteFactors } from "./actions";
import type { Asking } from "./ask-setting";

/** The last row of the table takes a new factor by name, unit and range, or rows that are pasted. */
export function NewFactor({
  tell,
  ask,
  notice,
}: {
  tell: ReturnType<typeof useTroubles>["tell"];
  ask(asking: Asking | undefined): void;
  notice(sentence: string | undefined): void;
}) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [draft, setDraft] = useState({ name: "", unit: "", generation: 0 });
  const row = study.factors.length;
  const create = (name: string, unit: string, range: RangeWords): string | undefined => {
    const finish = (held?: Setting): string | undefined => {
      const refused = commit(addFactor(study, name, range, { unit }, held), `added ${name}`);
      if (!refused) setDraft((d) => ({ name: "", unit: "", generation: d.generation + 1 }));
      return refused;
    };
    if (study.trials.length === 0) return finish();
    const levels = range.kind === "categorical" ? range.levels : undefined;
    ask({
      title: `Where did ${name} stand until now?`,
      text: `${study.trials.length} trials are in the ledger already. Say what ${name} was held at in them; nothing else of theirs changes.`,
      factor: { name, unit, ...(levels ? { levels } : {}) },
      value: levels
        ? levels[0]
        : range.kind === "continuous"
          ? String((range.low + range.high) / 2)
          : String((range as { values: number[] }).values[0]),
      done: `Add ${name}`,
      leave: "Do not add it",
      take: finish,
    });
    return undefined;
  };
  return (
    <tr key={`new-${draft.generation}`}>
      <td />
      <td>
        <DraftField
          name="new-factor:name"
          label="New factor name"
          value={draft.name}
          placeholder="Add a factor"
          row={row}
          col={0}
          autoFocus={draft.generation > 0}
          onPasteBlock={(text) => {
            if (study.trials.length > 0) {
              notice("Trials exist already, so add factors one by one: each asks what those trials were held at.");
              return true;
            }
            const { edits, problems, count } = pasteFactors(study, text);
            notice(
              count > 0
                ? (commit(edits, `pasted ${count} factors`) ?? problems[0])
                : (problems[0] ?? "No rows were found in what was pasted."),
            );
            return true;
          }}
          onTrouble={tell}
          take={(t) => {
            const clash =
              study.factors.some((f) => f.name.toLowerCase() === t.trim().toLowerCase()) ||
              study.responses.some((r) => r.name.toLowerCase() === t.trim().toLowerCase());
            if (clash) return `The name “${t.trim()}” is used twice; give each its own.`;
            setDraft({ ...draft, name: t.trim() });
            return undefined;
          }}
        />
      </td>
      <td>
        <DraftField
          name="new-factor:unit"
          label="New factor unit"
          value={draft.unit}
          placeholder="unit"
          row={row}
          col={1}
          take={(t) => {
            setDraft({ ...draft, unit: t.trim() });
            return undefined;
          }}
        />
      </td>
      <td>
        <DraftField
          name="new-factor:range"
          label="New factor range or levels"
          mono
          value=""
          placeholder="52 to 68"
          row={row}
          col={2}
          onTrouble={tell}
          take={(t) => {
            if (t.trim() === "") return undefined;
            const range = readRange(t);
            if (!range.ok) return range.sentence;
            if (draft.name === "") return "Name the factor first, in the cell to the left; the range typed stays.";
            return create(draft.name, draft.unit, range.value);
          }}
        />
      </td>
      <td colSpan={6} className="small quiet">
        Enter adds it; or paste rows: name, unit, low, high, step
      </td>
    </tr>
  );
}
