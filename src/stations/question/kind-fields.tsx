"use client";
import { readNumber, readShare } from "@/core/formats";
import { type AskedField, edit, KIND_FIELDS, kindOf, RESULT_KINDS, type Response, type Study } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { Pick } from "@/ui/parts/pick";
import css from "./question.module.css";

type Tell = (name: string, sentence: string | undefined) => void;

/** The edits that say how a response is measured; what belongs to another way goes. */
export function measuredEdits(study: Study, r: Response, measured: string) {
  const kind = kindOf({ measured });
  return [
    ...(kind.several || r.several === undefined ? [] : [edit(study, ["responses", r.id, "several"], null)]),
    ...KIND_FIELDS.filter((k) => !kind.fields.includes(k) && r[k] !== undefined).map((k) =>
      edit(study, ["responses", r.id, k], null),
    ),
    edit(study, ["responses", r.id, "measured"], kind === RESULT_KINDS[0] ? null : measured),
  ];
}

/** One of a few ways that a kind asks about; the usual one is said by saying nothing. */
function Choice({ response, field }: { response: Response; field: AskedField }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const choices = field.choices ?? [];
  const usual = choices[0][0];
  return (
    <label>
      {field.label}
      <Pick
        label={`${response.name}: ${field.label}`}
        value={String(response[field.key] ?? usual)}
        options={choices.map(([value, words]) => [value, words])}
        set={(v) => {
          const after = { ...response, [field.key]: v };
          // What is asked no longer goes with it.
          const gone = KIND_FIELDS.filter(
            (k) =>
              response[k] !== undefined &&
              !kindOf(after)
                .asks(after)
                .some((f) => f.key === k),
          );
          commit(
            [
              ...gone.map((k) => edit(study, ["responses", response.id, k], null)),
              edit(study, ["responses", response.id, field.key], v === usual ? null : v),
            ],
            `${field.label}: ${response.name}`,
          );
        }}
      />
    </label>
  );
}

/** How a response is measured: a value, a share of pieces, a count over an exposure; with what it then asks for. */
export function KindFields({ response, tell }: { response: Response; tell: Tell }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  return (
    <div className={css.measured}>
      <label>
        measured as
        <Pick
          label={`${response.name}: measured as`}
          value={kindOf(response).id}
          options={RESULT_KINDS.map((k) => [k.id, k.name])}
          set={(v) => {
            const refused = commit(measuredEdits(study, response, v), `how ${response.name} is measured`);
            tell(`${response.id}:measured`, refused);
          }}
        />
      </label>
      {kindOf(response)
        .asks(response)
        .map((field) =>
          field.choices ? (
            <Choice key={field.key} response={response} field={field} />
          ) : (
            <label key={field.key}>
              {field.label}
              <DraftField
                name={`${response.id}:${field.key}`}
                label={`${response.name} ${field.label}`}
                mono
                width={84}
                align="right"
                value={response[field.key] === undefined ? "" : String(response[field.key])}
                placeholder={field.placeholder}
                onTrouble={tell}
                take={(t) => {
                  const v = t.trim() === "" ? null : (field.percent ? readShare : readNumber)(t);
                  if (v === undefined || (v !== null && !(v > 0))) return `${response.name}: “${t}” ${field.wrong}`;
                  return commit(
                    [edit(study, ["responses", response.id, field.key], v)],
                    `${field.label} of ${response.name}`,
                  );
                }}
              />
            </label>
          ),
        )}
    </div>
  );
}
