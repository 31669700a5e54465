"use client";
import { Input } from "antd";
import { useState } from "react";
import { messageText, type Reading } from "@/core/findings";
import { storedModel } from "@/core/model";
import { edit, type Response } from "@/core/study";
import { useEvidence } from "@/ui/compute/use-evidence";
import { useDesk } from "@/ui/desk/store";
import { LinkButton } from "@/ui/parts/link-button";
import { say } from "@/ui/parts/say";
import type { SectionProps } from "./section";

/** What a person added to the report, and how it is changed. */
function useReport() {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const report = study.report ?? { paragraph: "", struck: [] };
  const put = (more: Partial<typeof report>, what: string): void => {
    const refused = commit([edit(study, ["report"], { ...report, ...more })], what);
    if (refused) say(refused);
  };
  return { report, put };
}

/** A reading as a line that can be struck out. */
function Finding({ at, reading }: { at: string; reading: Reading }) {
  const { report, put } = useReport();
  const out = report.struck.includes(at);
  return (
    <li data-print={out ? "no" : undefined} style={out ? { textDecoration: "line-through" } : undefined}>
      {messageText("readings", reading)}{" "}
      <span data-print="no">
        <LinkButton
          className="small"
          onClick={() =>
            put(
              { struck: out ? report.struck.filter((s) => s !== at) : [...report.struck, at] },
              out ? "put a finding back" : "struck a finding out",
            )
          }
        >
          {out ? "put back" : "strike out"}
        </LinkButton>
      </span>
    </li>
  );
}

/** What one response's model found and what must be said beside it. */
function FindingsOf({ study, response }: Pick<SectionProps, "study"> & { response: Response }) {
  const evidence = useEvidence(study, response.id);
  if (!evidence) return <p className="small quiet">Reading what {response.name} tells…</p>;
  const said = evidence.readings.filter((r) => r.kind !== "next step");
  if (said.length === 0) return null;
  return (
    <>
      <h3>{response.name}</h3>
      <ul style={{ margin: "2px 0 6px", paddingLeft: 18 }}>
        {said.map((r) => (
          <Finding key={r.id} at={`${response.id}:${r.id}`} reading={r} />
        ))}
      </ul>
    </>
  );
}

/** Findings first, with a paragraph of one's own before them. */
export function FindingsSection({ study }: SectionProps) {
  const { report, put } = useReport();
  const [draft, setDraft] = useState<string | undefined>(undefined);
  const modelled = study.responses.filter((r) => storedModel(study, r.id));
  return (
    <section>
      <h2>Findings</h2>
      {report.paragraph !== "" && <p style={{ whiteSpace: "pre-wrap", margin: "4px 0" }}>{report.paragraph}</p>}
      <div data-print="no" style={{ margin: "4px 0 8px" }}>
        <Input.TextArea
          aria-label="A paragraph of your own"
          placeholder="A paragraph of your own: what was asked, what was found, what to do"
          autoSize={{ minRows: 2, maxRows: 8 }}
          maxLength={5000}
          value={draft ?? report.paragraph}
          onChange={(e) => setDraft(e.target.value)}
          onBlur={() => {
            if (draft !== undefined && draft !== report.paragraph) put({ paragraph: draft }, "wrote a paragraph");
            setDraft(undefined);
          }}
        />
      </div>
      {modelled.length === 0 && <p className="quiet">No model is chosen yet, so there is nothing found to report.</p>}
      {modelled.map((r) => (
        <FindingsOf key={r.id} study={study} response={r} />
      ))}
    </section>
  );
}
