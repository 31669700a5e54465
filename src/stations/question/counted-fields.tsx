"use client";
import { readNumber, readShare } from "@/core/formats";
import { edit, isCounted, type Response, type Study } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { Pick } from "@/ui/parts/pick";
import css from "./question.module.css";

type Tell = (name: string, sentence: string | undefined) => void;

/** What belongs to a way of measuring and goes when another is chosen. */
const OWN = ["of", "lot", "scatter", "base", "excess", "pieceCost"] as const;

/** The edits that say how a response is measured; what belongs to another way goes. */
export function measuredEdits(study: Study, r: Response, measured: "value" | "share" | "count") {
  const gone = measured === "value" ? OWN.filter((k) => r[k] !== undefined) : [];
  return [
    ...(measured === "value" ? [] : r.several === undefined ? [] : [edit(study, ["responses", r.id, "several"], null)]),
    ...gone.map((k) => edit(study, ["responses", r.id, k], null)),
    edit(study, ["responses", r.id, "measured"], measured === "value" ? null : measured),
  ];
}

/** How a response is measured: a value, a share of pieces, a count over an exposure; with what it then asks for. */
export function CountedFields({ response, tell }: { response: Response; tell: Tell }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const share = response.measured === "share";
  const number = (
    key: "of" | "lot" | "base" | "excess" | "pieceCost",
    label: string,
    placeholder: string,
    read: (text: string) => number | null | undefined,
    wrong: string,
  ) => (
    <label>
      {label}
      <DraftField
        name={`${response.id}:${key}`}
        label={`${response.name} ${label}`}
        mono
        width={84}
        align="right"
        value={response[key] === undefined ? "" : String(response[key])}
        placeholder={placeholder}
        onTrouble={tell}
        take={(t) => {
          const v = t.trim() === "" ? null : read(t);
          if (v === undefined || (v !== null && !(v > 0))) return `${response.name}: “${t}” ${wrong}`;
          return commit([edit(study, ["responses", response.id, key], v)], `${label} of ${response.name}`);
        }}
      />
    </label>
  );
  const one = share ? "pieces" : (response.unit ?? "exposure");
  return (
    <div className={css.measured}>
      <label>
        measured as
        <Pick
          label={`${response.name}: measured as`}
          value={response.measured ?? "value"}
          options={[
            ["value", "a value"],
            ["share", "a share: k of n"],
            ["count", "a count per exposure"],
          ]}
          set={(v) => {
            const refused = commit(measuredEdits(study, response, v), `how ${response.name} is measured`);
            tell(`${response.id}:measured`, refused);
          }}
        />
      </label>
      {isCounted(response) && (
        <>
          {number(
            "of",
            share ? "pieces of a trial" : "exposure of a trial",
            share ? "50" : "2.5",
            readNumber,
            `is no number of ${one}; type one above 0.`,
          )}
          {number(
            "lot",
            share ? "pieces of a next lot" : "exposure of a next lot",
            String(response.of ?? "–"),
            readNumber,
            `is no number of ${one}; type one above 0.`,
          )}
          {number(
            "base",
            share ? "share expected in the middle" : "rate expected in the middle",
            share ? "2 %" : "1.5",
            share ? readShare : readNumber,
            share ? "is no share; type it like 2 % or 0.02." : "is no rate; type one above 0.",
          )}
          <label>
            trials scatter
            <Pick
              label={`${response.name}: how trials scatter`}
              value={response.scatter ?? "free"}
              options={[
                ["free", "beyond counting too"],
                ["counting", "by counting alone"],
              ]}
              set={(v) =>
                commit(
                  [
                    ...(v === "counting" && response.excess !== undefined
                      ? [edit(study, ["responses", response.id, "excess"], null)]
                      : []),
                    edit(study, ["responses", response.id, "scatter"], v === "free" ? null : v),
                  ],
                  `how trials of ${response.name} scatter`,
                )
              }
            />
          </label>
          {response.scatter !== "counting" &&
            number("excess", "expected, times counting", "1", readNumber, "is no number above 0; 1 is counting alone.")}
          {number(
            "pieceCost",
            share ? "a piece costs, in trials" : "a unit costs, in trials",
            "0",
            readNumber,
            "is no cost; type a number above 0, or leave it empty.",
          )}
        </>
      )}
    </div>
  );
}
