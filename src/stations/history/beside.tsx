"use client";
import { Button, Checkbox } from "antd";
import { useMemo, useState } from "react";
import { counted, STATIONS } from "@/core/findings";
import { differences, type Study } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { Fold } from "@/ui/parts/fold";
import { say } from "@/ui/parts/say";
import { ScrollBox } from "@/ui/parts/scroll-box";
import { STATION_NAMES } from "@/ui/shell/station-names";
import css from "./history.module.css";
import { type CellThen, cellsThen, type LedgerThen, ledgerThen } from "./past";

/** Trials that are drawn at once. */
const MOST_TRIALS = 200;

function Cells({ cells }: { cells: readonly CellThen[] }) {
  return (
    <table className={css.then}>
      <thead>
        <tr>
          <th>Place</th>
          <th>Then</th>
          <th>Now</th>
        </tr>
      </thead>
      <tbody>
        {cells.map((c) => (
          <tr key={c.key} data-differs={c.differs ? "yes" : "no"}>
            <th scope="row">{c.place}</th>
            <td>{c.past || "–"}</td>
            <td>{c.now || "–"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const WHERE = { both: "", past: "gone since", now: "came later" } as const;

function Trials({ ledger, all }: { ledger: LedgerThen; all: boolean }) {
  const rows = ledger.trials.filter((t) => all || t.differs);
  // Columns in which nothing is said would only push the rest out of sight.
  const kept = ledger.columns.flatMap((c, i) =>
    rows.some((t) => (all ? t.cells[i].past || t.cells[i].now : t.cells[i].differs)) ? [{ ...c, i }] : [],
  );
  return (
    <ScrollBox name="Ledger then and now" className={css.ledger}>
      <table className={css.then}>
        <thead>
          <tr>
            <th>Trial</th>
            {kept.map((c) => (
              <th key={c.key}>{c.name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, MOST_TRIALS).map((t) => (
            <tr key={t.id} data-differs={t.in === "both" ? "no" : "yes"}>
              <th scope="row" className="num">
                {t.order} <span className="small quiet">{WHERE[t.in]}</span>
              </th>
              {kept.map(({ key, i }) => {
                const c = t.cells[i];
                if (t.in !== "both" || !c.differs)
                  return (
                    <td key={key} className="num">
                      {(t.in === "now" ? c.now : c.past) || "–"}
                    </td>
                  );
                return (
                  <td key={key} className="num" data-differs="yes">
                    {c.past || "nothing"} <span className="quiet">→</span> {c.now || "nothing"}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {rows.length > MOST_TRIALS && (
        <p className="small quiet">
          The first {MOST_TRIALS} of {counted(rows.length, "trial")}; all of them stand in its study file.
        </p>
      )}
    </ScrollBox>
  );
}

/** A past state beside the present: what differs is marked, and the whole of it can be brought back. */
export function Beside({ past, heading, file }: { past: Study; heading: string; file: () => void }) {
  const study = useDesk((d) => d.study);
  const commit = useDesk((d) => d.commit);
  const [all, setAll] = useState(false);
  const stations = useMemo(() => cellsThen(past, study), [past, study]);
  const ledger = useMemo(() => ledgerThen(past, study), [past, study]);
  const differing = stations.reduce((t, s) => t + s.differing, 0) + ledger.differing;
  const bring = (): void => {
    const refused = commit(differences(study, past), `brought back the state ${heading}`);
    say(refused ?? "Brought back as a new change; Undo takes it away again.", refused ? "warning" : "done");
  };
  const shown = [
    ...stations.map((s) => ({ name: s.station, differing: s.differing })),
    { name: "trials" as const, differing: ledger.differing },
  ]
    .filter((s) => all || s.differing > 0)
    .sort((a, b) => STATIONS.indexOf(a.name) - STATIONS.indexOf(b.name));
  return (
    <section aria-label="The study as it stood" data-testid="beside">
      <div className="row" style={{ gap: 10, flexWrap: "wrap" }}>
        <h2 className="grow">As it stood {heading}</h2>
        <Button type="primary" disabled={differing === 0} onClick={bring}>
          Bring this state back
        </Button>
      </div>
      <div className="row small" style={{ gap: 10, margin: "4px 0 8px", flexWrap: "wrap" }}>
        <span className="grow quiet">
          To read only; the present stays as it is.{" "}
          {differing === 0
            ? "Nothing differs from it."
            : `${counted(differing, "place")} ${differing === 1 ? "differs" : "differ"} from it.`}
        </span>
        <Checkbox checked={all} onChange={(e) => setAll(e.target.checked)}>
          what is the same, too
        </Checkbox>
        <Button size="small" onClick={file}>
          Its study file
        </Button>
      </div>
      {shown.map(({ name, differing }) => (
        <Fold
          key={name}
          open={differing > 0}
          title={`${STATION_NAMES[name]}: ${differing === 0 ? "the same" : `${differing} ${differing === 1 ? "differs" : "differ"}`}`}
        >
          {name === "trials" ? (
            <Trials ledger={ledger} all={all} />
          ) : (
            <Cells
              cells={stations.flatMap((s) => (s.station === name ? s.cells.filter((c) => all || c.differs) : []))}
            />
          )}
        </Fold>
      ))}
    </section>
  );
}
