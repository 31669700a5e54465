"use client";
import { Button, Form, Input } from "antd";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { listed, messageText, missedText } from "@/core/findings";
import { storedModel } from "@/core/model";
import { adoptPlan, followUp } from "@/core/plans";
import type { StudyView } from "@/core/questions";
import { missedLimits, type Verdict } from "@/core/setpoint";
import {
  activeFactors,
  additions,
  edit,
  hardFactors,
  kindOf,
  type Response,
  type Settings,
  type Study,
  StudyError,
  valueUnit,
} from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { useStudyView } from "@/ui/desk/view";
import { Assumed, AssumedNote } from "@/ui/parts/assumed";
import { axisName, figure, ownError, settingText, valueText } from "@/ui/parts/format";
import { LinkButton } from "@/ui/parts/link-button";
import { named, Pick } from "@/ui/parts/pick";
import { say } from "@/ui/parts/say";
import { Pieces } from "./pieces";
import css from "./setpoint.module.css";

const MOST = 50;

/** Whether a text is a number of trials that can be planned. */
const isCount = (text: string): boolean => {
  const n = Number(text);
  return text.trim() !== "" && Number.isInteger(n) && n >= 1 && n <= MOST;
};

/** What is predicted of a response, and where the mean of its confirmations should lie. */
const ExpectedRow = ({
  r,
  mean,
  interval,
  last,
  lastName,
  error,
  assumed,
}: {
  r: Response;
  mean: number;
  interval: [number, number] | null;
  /** The same as in the last wave, where waves differ. */
  last: [number, number] | null | undefined;
  lastName: string | undefined;
  assumed: number | undefined;
  error: ReturnType<typeof ownError>;
}) => {
  const { min = Number.NEGATIVE_INFINITY, max = Number.POSITIVE_INFINITY } = r.bounds ?? {};
  const range = (ends: [number, number]): string =>
    ends.map((v) => valueText(r, Math.min(max, Math.max(min, v)), error)).join(" to ");
  return (
    <tr>
      <td>{axisName(r.name, valueUnit(r))}</td>
      <td className="num">{valueText(r, mean, error)}</td>
      <td className="num">
        {interval === null ? "not told: no noise to judge by" : range(interval)}
        <Assumed ratio={interval === null ? undefined : assumed} />
        {last && (
          <small className="quiet">
            {" "}
            or {range(last)}, as in {lastName}
          </small>
        )}
      </td>
    </tr>
  );
};

/** What so many trials at the setpoint should bring of each response. */
const expectedOf = (
  view: StudyView,
  settings: Settings,
  modelled: readonly Response[],
  n: number,
  setups: number | undefined,
) =>
  modelled.flatMap((r) => {
    const found = view.fitted(r.id);
    if (!found.ok) return [];
    const read = found.fitted.predictor;
    const said = read.predict(settings);
    const { interval, last } = view.expected(r.id, settings, n, modelled.length, setups);
    return {
      r,
      interval,
      last: last?.interval,
      lastName: view.study.waves.find((w) => w.id === last?.wave)?.name,
      mean: said.mean,
      assumed: said.assumed,
      error: ownError(said, read.link),
    };
  });

/** How many trials confirm the setpoint, and the wave that runs them. */
function PlanConfirmation({ study, settings }: { study: Study; settings: Settings }) {
  const id = useDesk((d) => d.id);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const [form] = Form.useForm<{ trials: string; setups: string }>();
  const text = Form.useWatch("trials", form) ?? "3";
  // Where factors are hard to change, each trial is set up anew unless fewer set-ups are asked for.
  const hard = hardFactors(study).length > 0;
  const spread = Form.useWatch("setups", form) ?? "";
  const [sure, setSure] = useState(study.responses.find((r) => storedModel(study, r.id) && !r.spread)?.id ?? "");
  const [width, setWidth] = useState("");
  const n = Number(text);
  const setups = hard && isCount(spread) ? Math.min(Number(spread), n) : undefined;
  const fine = isCount(text) && (spread.trim() === "" || isCount(spread));
  const view = useStudyView(study);
  const modelled = study.responses.filter((r) => storedModel(study, r.id) && !r.spread);
  const rows = expectedOf(view, settings, modelled, fine ? n : 3, fine ? setups : undefined);
  const plan = (): void => {
    try {
      const over = setups === undefined ? {} : { setups };
      const { plan: wave, purpose } = followUp(study, { kind: "confirm", trials: n, ...over });
      const refused = commit(additions(study, adoptPlan(study, wave, purpose)), `planned ${n} confirmation trials`);
      if (refused) say(refused);
      else router.push(`/studies/${id}/trials`);
    } catch (error) {
      if (!(error instanceof StudyError)) throw error;
      say(error.message);
    }
  };
  return (
    <>
      <p className="small" style={{ marginBottom: 6 }}>
        Run the setpoint (
        {activeFactors(study)
          .map((f) => `${f.name} ${settingText(settings[f.id])}`)
          .join(", ")}
        ) several times. Each mean should fall inside its interval; the trials stay out of the models until you say
        otherwise.
      </p>
      <table className={css.verdict}>
        <thead>
          <tr>
            <th>Response</th>
            <th>predicted</th>
            <th>
              the mean of {fine ? n : 3}
              {hard && fine ? ` in ${setups ?? n} set-up${(setups ?? n) === 1 ? "" : "s"}` : ""} should lie
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <ExpectedRow key={row.r.id} {...row} />
          ))}
        </tbody>
      </table>
      <AssumedNote of={rows.map((row) => ({ name: row.r.name, ratio: row.assumed }))} />
      <Form
        form={form}
        layout="inline"
        size="middle"
        colon={false}
        requiredMark={false}
        style={{ marginTop: 8, gap: 8 }}
        initialValues={{ trials: "3", setups: "" }}
        onFinish={plan}
      >
        <Form.Item
          name="trials"
          label="trials"
          rules={[
            {
              validator: async (_, typed: string) => {
                if (!isCount(typed)) throw new Error(`Give a whole number from 1 to ${MOST}.`);
              },
            },
          ]}
        >
          <Input className="num" style={{ width: 56, textAlign: "right" }} aria-label="Confirmation trials" />
        </Form.Item>
        {hard && (
          <Form.Item
            name="setups"
            label="in set-ups"
            rules={[
              {
                validator: async (_, typed: string) => {
                  if (typed.trim() !== "" && !isCount(typed))
                    throw new Error(`Give a whole number from 1 to ${MOST}, or none to set up every trial anew.`);
                },
              },
            ]}
          >
            <Input
              className="num"
              style={{ width: 56, textAlign: "right" }}
              aria-label="Set-ups of the confirmation"
              placeholder={fine ? String(n) : "3"}
            />
          </Form.Item>
        )}
        <Button type="primary" htmlType="submit" disabled={!fine}>
          Plan the confirmation
        </Button>
        {rows.some((r) => r.interval !== null) && (
          <span className="row small quiet" style={{ gap: 6 }}>
            trials needed for{" "}
            <Pick
              style={{ maxWidth: 130 }}
              label="Response to be sure of"
              value={sure}
              options={named(modelled)}
              set={setSure}
            />
            within ±
            <Input
              className="num"
              style={{ width: 70, textAlign: "right" }}
              aria-label="Half width wanted"
              value={width}
              onChange={(e) => {
                setWidth(e.target.value);
                const wanted = Number(e.target.value.replace(",", "."));
                if (!(wanted > 0)) return;
                const needed = view.confirmationsFor(sure, settings, wanted);
                if (needed !== null && needed <= MOST) {
                  form.setFieldValue("trials", String(needed));
                  void form.validateFields();
                } else
                  say(
                    `No number of trials up to ${MOST} brings that: the model itself is less sure of its mean there.`,
                  );
              }}
            />
          </span>
        )}
      </Form>
    </>
  );
}

/** What was predicted of each response beside what came, and whether they agree. */
const VerdictTable = ({ study, verdicts }: { study: Study; verdicts: readonly Verdict[] }) => (
  <>
    <table className={css.verdict}>
      <thead>
        <tr>
          <th>Response</th>
          <th>predicted</th>
          <th title="for the mean of these trials, all responses judged together; no shift between waves assumed">
            interval
          </th>
          <th title="the same with the variation seen between earlier waves; where they differ it is what results are held to">
            with waves
          </th>
          <th>mean of {verdicts[0].n}</th>
          <th>verdict</th>
          <th>limits</th>
          <th title="distance to the nearer limit over three standard deviations of single trials, or units, by the models' noise">
            Ppk
          </th>
        </tr>
      </thead>
      <tbody>
        {verdicts.map((v) => {
          const r = study.responses.find((q) => q.id === v.response);
          const waveName = (wave: string): string => study.waves.find((w) => w.id === wave)?.name ?? wave;
          const width = v.interval ? (v.interval[1] - v.interval[0]) / 4 : null;
          const range = (i: [number, number] | null): string =>
            i ? i.map((x) => valueText(r, x, width)).join(" to ") : "–";
          return (
            <tr key={v.response}>
              <td>{axisName(r?.name ?? v.response, r && valueUnit(r))}</td>
              <td className="num">{valueText(r, v.predicted, width)}</td>
              <td className={v.byWaves ? "num quiet" : "num"}>
                {range(v.interval)}
                <Assumed ratio={v.assumed} />
              </td>
              <td className={v.byWaves ? "num" : "num quiet"}>
                {range(v.withWaves)}
                <Assumed ratio={v.withWaves ? v.assumed : undefined} />
              </td>
              <td className="num">
                <strong>{valueText(r, v.mean, width)}</strong>
                {r && v.counted && <span className="quiet"> ({kindOf(r).text(v.counted, r, String)})</span>}
              </td>
              <td className={v.agrees === null ? "quiet" : v.agrees ? "success" : "warning"}>
                {v.agrees === null ? "–" : v.agrees ? "✓ agrees" : "! outside"}
                {v.agreesWith.length > 0 && (
                  <small className={`quiet ${css.level}`}>as in {listed(v.agreesWith.map(waveName))}</small>
                )}
                <Assumed ratio={v.agrees === null ? undefined : v.assumed} />
              </td>
              <td className={v.meetsLimits === false ? "warning" : "success"}>
                {v.meetsLimits === null ? "" : v.meetsLimits ? "✓ kept" : "! broken"}
              </td>
              <td className="num">
                {v.ppk === null ? "" : v.ppk.toFixed(2).replace("-", "−")}
                <Assumed ratio={v.ppk === null ? undefined : v.assumed} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
    <AssumedNote
      of={verdicts.map((v) => ({
        name: study.responses.find((r) => r.id === v.response)?.name ?? v.response,
        ratio: v.assumed,
      }))}
    />
  </>
);

/** The setpoint put to the test: its plan, then the verdict beside the prediction. */
export function Confirm({ study }: { study: Study }) {
  const id = useDesk((d) => d.id);
  const commit = useDesk((d) => d.commit);
  const router = useRouter();
  const found = useStudyView(study).confirmation();
  const [repeating, setAgain] = useState(false);
  if (!found && !study.setpoint) return null;
  const settings = study.setpoint?.settings;
  const moved =
    found &&
    settings &&
    study.factors.some((f) => settings[f.id] !== undefined && settings[f.id] !== found.settings[f.id]);
  const joined = found?.trials.every((t) => t.use);
  const join = (): void => {
    const refused = commit(
      (found?.trials ?? []).flatMap((t) => [
        edit(study, ["trials", t.id, "use"], !joined),
        edit(study, ["trials", t.id, "why"], joined ? "confirmation" : null),
      ]),
      joined ? "took the confirmation out of the models" : "took the confirmation into the models",
    );
    if (refused) say(refused);
  };
  return (
    <section className={css.confirm} aria-label="Confirmation" data-testid="confirmation">
      <div className="row">
        <h2 className="grow">Confirm</h2>
        {found && settings && (
          <LinkButton className="small" onClick={() => setAgain(!repeating)}>
            {repeating ? "show the verdict" : "confirm again"}
          </LinkButton>
        )}
      </div>
      {settings && (!found || repeating) ? (
        <PlanConfirmation study={study} settings={settings} />
      ) : found ? (
        <>
          <p
            role="status"
            className={
              found.agrees === null ? "quiet" : found.agrees && found.meetsLimits !== false ? "success" : "warning"
            }
            style={{ fontSize: 15, fontWeight: 600, margin: "2px 0 6px" }}
          >
            {found.agrees === null
              ? found.complete
                ? "No verdict: there is no noise to judge by."
                : `${found.trials.filter((t) => t.state === "done").length} of ${found.trials.length} confirmation trials are run.`
              : found.agrees
                ? `It agrees: every mean of ${found.verdicts[0]?.n} lies inside its interval.`
                : `It does not agree: ${found.verdicts
                    .filter((v) => v.agrees === false)
                    .map((v) => study.responses.find((r) => r.id === v.response)?.name)
                    .join(
                      ", ",
                    )} ${found.verdicts.filter((v) => v.agrees === false).length === 1 ? "lies" : "lie"} outside.`}
            {found.meetsLimits === true ? " Every limit is met." : ""}
            {found.meetsLimits === false
              ? ` But short of its limit: ${missedLimits(study, found).map(missedText).join(", ")}.`
              : ""}
            {moved ? " The setpoint has been moved since." : ""}
          </p>
          {found.verdicts.length > 0 && <VerdictTable study={study} verdicts={found.verdicts} />}
          {found.verdicts.map((v) => {
            const r = study.responses.find((q) => q.id === v.response);
            return r && v.units && <Pieces key={v.response} verdict={v} response={r} trials={found.trials} />;
          })}
          {found.verdicts.map((v) => {
            const r = study.responses.find((q) => q.id === v.response);
            return (
              r &&
              v.counted && (
                <p key={v.response} className="small quiet">
                  {r.name}: {kindOf(r).text(v.counted, r, String)} says that {kindOf(r).lot.value} lies between{" "}
                  {figure(v.counted.interval[0], 2)} and {figure(v.counted.interval[1], 2)} (
                  {Math.round(100 * study.confidence)} %,{" "}
                  {r.scatter === "counting" ? "exact" : "scatter beyond counting counted in"}).
                </p>
              )
            );
          })}
          {found.suspects.length > 0 && (
            <>
              <h3 style={{ marginTop: 8 }}>What to suspect, in order</h3>
              <ol className="small" style={{ margin: "2px 0 0", paddingLeft: 20 }}>
                {found.suspects.map((s) => (
                  <li key={messageText("suspects", s)}>{messageText("suspects", s)}</li>
                ))}
              </ol>
            </>
          )}
          <div className="row" style={{ marginTop: 8 }}>
            {!found.complete && <Button onClick={() => router.push(`/studies/${id}/trials`)}>Enter its results</Button>}
            {found.complete && (
              <Button onClick={join}>{joined ? "Take them out of the models" : "Use them in the models"}</Button>
            )}
          </div>
        </>
      ) : null}
    </section>
  );
}
