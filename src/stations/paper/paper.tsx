import Link from "next/link";
import { Fragment } from "react";
import { inRunOrder, settingChanges, toSet } from "@/core/operator";
import {
  activeFactors,
  hardFactors,
  isNumeric,
  kindOf,
  measuredResponses,
  type Study,
  setupOpenings,
  type Trial,
  type Wave,
} from "@/core/study";
import { clip, settingText } from "@/ui/parts/format";
import { QrCode } from "@/ui/parts/qr-code";
import { Bar } from "./bar";
import "./paper.css";

/** Factors from which on their headings stand upright. */
const MANY = 8;

/** Cards on a page; more where each holds little. */
const A_PAGE = 4;
const SMALL_A_PAGE = 6;
/** Most blanks that a response is given on paper; more values than these come from a file. */
const MOST_BLANKS = 8;

/** Blanks that a response is given: as many as trials so far have readings. */
const blanksOf = (study: Study, response: string): number =>
  study.trials.reduce((most, t) => {
    const r = t.results[response];
    return Array.isArray(r) && r.length <= MOST_BLANKS ? Math.max(most, r.length) : most;
  }, 1);

/** Whether two lines of settings and a line or two of blanks are all that a card holds. */
const small = (study: Study): boolean =>
  activeFactors(study).length <= 4 && measuredResponses(study).reduce((t, r) => t + blanksOf(study, r.id), 0) <= 3;

interface Props {
  id: string;
  study: Study;
  /** None where no trials stand. */
  wave: Wave | undefined;
  as: "sheet" | "cards";
  size: "a4" | "letter";
  /** By which address the bench is reached. */
  origin: string;
  /** Whether that address leads there from this machine alone. */
  here: boolean;
  /** All trials, or those that are left to run. */
  only: "all" | "left";
}

/** Trials of a wave in the order they are run, each with the one before it. */
function trialsOf(study: Study, wave: Wave, only: Props["only"]): { trial: Trial; before: Trial | undefined }[] {
  const all = inRunOrder(study);
  return all.flatMap((trial, i) =>
    trial.wave === wave.id && (only === "all" || trial.state === "planned") ? [{ trial, before: all[i - 1] }] : [],
  );
}

function Sheet({ study, wave, only }: Pick<Props, "study" | "only"> & { wave: Wave }) {
  const factors = activeFactors(study);
  const responses = measuredResponses(study).map((r) => ({ ...r, blanks: blanksOf(study, r.id) }));
  const openings = setupOpenings(study);
  const columns = 4 + factors.length + responses.reduce((t, r) => t + r.blanks, 0);
  return (
    <table className="sheet" data-many={factors.length >= MANY ? "yes" : "no"}>
      <thead>
        <tr>
          <th colSpan={columns} className="title">
            {study.title} · {wave.name}
          </th>
        </tr>
        <tr>
          <th scope="col" className="short">
            order
          </th>
          {factors.map((f) => (
            <th key={f.id} scope="col">
              <span>
                {f.letter} {f.name}
                {isNumeric(f) && f.unit ? `, ${f.unit}` : ""}
              </span>
            </th>
          ))}
          {responses.map((r) => (
            <th key={r.id} scope="colgroup" colSpan={r.blanks}>
              <span>
                {r.name}
                {kindOf(r).on(r) ? `, ${kindOf(r).on(r)}` : ""}
              </span>
            </th>
          ))}
          <th scope="col" className="short">
            time
          </th>
          <th scope="col" className="short">
            initials
          </th>
          <th scope="col" className="note">
            note
          </th>
        </tr>
      </thead>
      <tbody>
        {trialsOf(study, wave, only).map(({ trial, before }) => {
          const moving = new Set(
            settingChanges(study, before, trial)
              .filter(toSet)
              .map((c) => c.factor.id),
          );
          return (
            <Fragment key={trial.id}>
              {openings.has(trial.id) && (
                <tr className="setup">
                  <th colSpan={columns}>
                    Set-up {trial.setup}: reset{" "}
                    {hardFactors(study)
                      .map((f) => f.name)
                      .join(" and ")}
                    , even where the dial shows the same
                  </th>
                </tr>
              )}
              <tr>
                <th scope="row">{trial.order}</th>
                {factors.map((f) => (
                  <td key={f.id} data-changes={moving.has(f.id) ? "yes" : "no"}>
                    {settingText(trial.settings[f.id])}
                  </td>
                ))}
                {responses.flatMap((r) =>
                  Array.from({ length: r.blanks }, (_, i) => <td key={`${r.id} ${i}`} className="blank" />),
                )}
                <td className="blank" />
                <td className="blank" />
                <td className="blank" />
              </tr>
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}

function Cards({ id, study, wave, origin, only }: Pick<Props, "id" | "study" | "origin" | "only"> & { wave: Wave }) {
  const responses = measuredResponses(study);
  const all = trialsOf(study, wave, only);
  const each = small(study) ? SMALL_A_PAGE : A_PAGE;
  const pages = Array.from({ length: Math.ceil(all.length / each) }, (_, i) => all.slice(i * each, (i + 1) * each));
  return pages.map((cards) => (
    <div key={cards[0].trial.id} className="cards" data-small={small(study) ? "yes" : "no"}>
      {cards.map(({ trial, before }) => (
        <article key={trial.id} className="card">
          <QrCode
            text={`${origin}/studies/${id}/bench#trial-${trial.order}`}
            name={`Trial ${trial.order} at the bench`}
          />
          <h2>
            Trial {trial.order} <small>of {study.trials.length}</small>
          </h2>
          <p>
            {study.title} · {wave.name}
          </p>
          <dl>
            {settingChanges(study, before, trial).map((c) => (
              <div key={c.factor.id} data-changes={toSet(c) ? "yes" : "no"}>
                <dt>
                  {c.factor.letter} {clip(c.factor.name, 20)}
                </dt>
                <dd>
                  {c.changes && c.from !== undefined && <s>{settingText(c.from)}</s>} {settingText(c.to)}
                  {isNumeric(c.factor) && c.factor.unit ? ` ${c.factor.unit}` : ""}
                  {c.reset && !c.changes && <small> reset</small>}
                </dd>
              </div>
            ))}
          </dl>
          <ul>
            {responses.map((r) => (
              <li key={r.id}>
                {r.name}
                {kindOf(r).on(r) ? `, ${kindOf(r).on(r)}` : ""}
                {Array.from({ length: blanksOf(study, r.id) }, (_, i) => (
                  <i key={i} />
                ))}
              </li>
            ))}
            <li>
              time <i /> initials <i />
            </li>
            <li className="line">
              note <i />
            </li>
          </ul>
        </article>
      ))}
    </div>
  ));
}

/** A wave on paper: what is to be set and where results are written, without any prediction. */
export function Paper(props: Props) {
  const { id, study, wave, as, size, here, only } = props;
  if (!wave)
    return (
      <main className="paper">
        <h1>No trials yet</h1>
        <p>
          Adopt a plan on <Link href={`/studies/${id}/plan`}>Plan</Link>; its trials are printed here.
        </p>
      </main>
    );
  return (
    <main className="paper" data-size={size} data-as={as}>
      <Bar
        id={id}
        waves={study.waves.map((w) => ({ id: w.id, name: w.name }))}
        wave={wave.id}
        as={as}
        size={size}
        only={only}
      />
      {as === "sheet" ? (
        <>
          <p className="hint">Marked settings change from the trial before; run in this order.</p>
          <Sheet study={study} wave={wave} only={only} />
        </>
      ) : (
        <>
          {here && (
            <p className="hint" data-print="no">
              The codes open the bench on this machine alone: the server is not opened to a network.
            </p>
          )}
          <Cards {...props} wave={wave} />
        </>
      )}
    </main>
  );
}
