"use client";
import { useState } from "react";
import { useDesk } from "@/ui/desk/store";
import { DraftField } from "@/ui/parts/draft";
import { LinkButton } from "@/ui/parts/link-button";
import { say } from "@/ui/parts/say";
import { addCovariate, removeCovariate, renameCovariate } from "./actions";
import css from "./question.module.css";

/** What is measured beside each trial and cannot be set, such as the weather: it may explain, it is never planned. */
export function CovariateTable() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [open, setOpen] = useState(false);
  const [generation, setGeneration] = useState(0);
  if (study.covariates.length === 0 && !open)
    return (
      <p className="small" style={{ margin: "8px 0" }}>
        <LinkButton className="small" onClick={() => setOpen(true)}>
          something measured with each trial that nobody sets, such as hall humidity
        </LinkButton>
      </p>
    );
  return (
    <section aria-label="Measured, not set" style={{ margin: "10px 0" }}>
      <h2 style={{ marginBottom: 4 }}>Measured, not set</h2>
      <div className={css.covariates}>
        {study.covariates.map((c, row) => (
          <div key={c.id} className="row">
            <DraftField
              name={`covariate:${c.id}:name`}
              label={`Covariate ${row + 1} name`}
              value={c.name}
              take={(t) =>
                t.trim() === ""
                  ? "It needs a name; remove it instead."
                  : commit(renameCovariate(study, c.id, "name", t), `renamed ${c.name}`)
              }
            />
            <DraftField
              name={`covariate:${c.id}:unit`}
              label={`${c.name} unit`}
              value={c.unit ?? ""}
              placeholder="unit"
              width={90}
              take={(t) => commit(renameCovariate(study, c.id, "unit", t), `unit of ${c.name}`)}
            />
            <LinkButton
              className="small"
              onClick={() => {
                const refused = commit(removeCovariate(study, c.id), `removed ${c.name}`);
                if (refused) say(refused);
              }}
            >
              remove
            </LinkButton>
          </div>
        ))}
        <div className="row" key={generation}>
          <DraftField
            name="new-covariate:name"
            label="New covariate name"
            value=""
            placeholder="Add what is measured with each trial"
            take={(t) => {
              if (t.trim() === "") return undefined;
              const refused = commit(addCovariate(study, t), `added ${t.trim()}`);
              if (refused === undefined) setGeneration(generation + 1);
              return refused;
            }}
          />
        </div>
      </div>
      <p className="small quiet">
        Written down under Trials; in a model it can stand as a main effect. Plans leave it alone.
      </p>
    </section>
  );
}
