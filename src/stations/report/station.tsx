"use client";
import { Button, Checkbox } from "antd";
import { useDeferredValue, useMemo, useState } from "react";
import { reportReadings } from "@/core/findings";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { StationFrame } from "@/ui/shell/frame";
import css from "./report.module.css";
import { sections } from "./sections";

/** A page as it will print: findings, question, plan, models, setpoint, ledger. */
export function ReportStation() {
  const study = useDesk((d) => d.study);
  const id = useDesk((d) => d.id);
  const [left, setLeft] = useState<readonly string[]>(sections.filter((s) => s.asked).map((s) => s.name));
  // As the station opens the question stands first, what rests on models a moment later.
  const opened = useDeferredValue(true, false);
  const view = useStudyView();
  const tested = useMemo(() => (opened ? (view.confirmation() ?? null) : undefined), [view, opened]);
  const readings = useMemo(() => reportReadings(study, tested), [study, tested]);
  return (
    <StationFrame
      name="Report"
      readings={readings}
      heading={
        <div className={`${css.switches} grow`} data-print="no">
          <span className={css.parts}>
            {sections.map(({ name }) => (
              <Checkbox
                key={name}
                checked={!left.includes(name)}
                onChange={(e) => setLeft(e.target.checked ? left.filter((n) => n !== name) : [...left, name])}
              >
                {name}
              </Checkbox>
            ))}
          </span>
          <Button href={`/api/studies/${id}/export?format=csv`}>Ledger CSV</Button>
          <Button href={`/api/studies/${id}/export?format=json`}>Study file</Button>
          <Button type="primary" onClick={() => window.print()}>
            Print or save PDF
          </Button>
        </div>
      }
    >
      <article className={css.sheet} data-testid="report">
        <h1>{study.title}</h1>
        {study.notes && <p style={{ marginTop: 6 }}>{study.notes}</p>}
        {sections.map(({ name, Body, late }) =>
          left.includes(name) || (late && !opened) ? null : <Body key={name} study={study} tested={tested} />,
        )}
      </article>
    </StationFrame>
  );
}
