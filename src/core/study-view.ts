import { storedModel } from "./model/data";
import { type Fit, type FitOptions, fitModel } from "./model/fit";
import { effectLadder } from "./model/ladder";
import { contrastsOf } from "./model/lenth";
import { type Offer, offeredModel, presentFit } from "./model/offer";
import type { PlanRequest, PlanSummary } from "./planning/plan-summary";
import { type Confirmation, confirmation, confirmedFact } from "./setpoint/confirm";
import { type SetpointProblem, setpointProblem } from "./setpoint/goals";
import { StudyError } from "./study/error";
import { type Memo, once } from "./study/memo";
import type { Study, Term } from "./study/schema";
import { presentPredictor } from "./surface/average";
import type { Predictor } from "./surface/predict";

/** A fit with what is read off it, each worked out when first asked for. */
export interface Fitted {
  fit: Fit;
  predictor: Predictor;
  /** Whether the model was chosen, rather than the one first offered. */
  chosen: boolean;
  /** The model first offered on this scale, whatever is chosen. */
  readonly offer: Offer;
  readonly ladder: ReturnType<typeof effectLadder>;
  /** Least and greatest fitted value over the trials, in the response's own units. */
  span: [number, number];
  readonly contrasts: ReturnType<typeof contrastsOf>;
}

export type FitResult = { ok: true; fitted: Fitted } | { ok: false; refused: StudyError };

function spanOf(fit: Fit): [number, number] {
  const { back } = fit.model.link;
  const values = fit.trials.map((t) => back(t.predicted));
  return [Math.min(...values), Math.max(...values)];
}

/** Work of one model, and of all with their rivals, up to which they are fitted anew as a person works. */
const MOST_WORK = 2e7;
const MOST_TOGETHER = 1e8;

/** Trials × columns² of a model, and what each trial costs whatever the model. */
function workOf({ factors, trials }: Study, terms: readonly Term[]): number {
  const columnsOf = new Map(factors.map((f) => [f.id, f.kind === "categorical" ? f.levels.length - 1 : 1]));
  const columns = terms.reduce((t, term) => t + term.reduce((p, id) => p * (columnsOf.get(id) ?? 1), 1), 1);
  return trials.length * (columns ** 2 + 150);
}

/**
 * One state of a study with the figures derived from it. Each names what it rests on; what stands since an earlier
 * state is taken from the memo that both share, whatever else was edited meanwhile.
 */
export class StudyView {
  constructor(
    readonly study: Study,
    private readonly memo: Memo,
  ) {}

  /** What a fit of a response rests on beside its terms. */
  private grounds(response: string): unknown[] {
    const { trials, factors, covariates, waves, region, confidence, responses } = this.study;
    return [trials, factors, covariates, waves, region, confidence, responses.find((r) => r.id === response), response];
  }

  /** Why the models of the study are not fitted here; undefined where they are. */
  private tooMuch(response: string): StudyError | undefined {
    const { study, memo } = this;
    const { factors, trials, models } = study;
    const all = memo.get("work", [factors, trials.length, models], () =>
      models.map((m) => ({ response: m.response, work: workOf(study, m.terms), times: 1 + (m.rivals?.length ?? 0) })),
    );
    const own = all.find((m) => m.response === response)?.work ?? 0;
    const together = all.reduce((t, m) => t + m.work * m.times, 0);
    const size = {
      trials: trials.length,
      terms: models.find((m) => m.response === response)?.terms.length ?? 0,
    };
    const place = ["models", response];
    if (own > MOST_WORK) return new StudyError("too-large.model", size, place);
    return together > MOST_TOGETHER ? new StudyError("too-large.models", size, place) : undefined;
  }

  /**
   * A fit of a response by terms of one's own.
   * @throws StudyError as `fitModel`
   */
  fit(response: string, options: FitOptions): Fit {
    return fitModel(this.study, response, options, this.memo);
  }

  /** The fit of a response as the study stands, with what is read off it; or why there is none. */
  fitted(response: string): FitResult {
    const { study, memo } = this;
    return memo.get("fitted", [...this.grounds(response), storedModel(study, response)], (): FitResult => {
      const refused = this.tooMuch(response);
      if (refused) return { ok: false, refused };
      try {
        const fit = presentFit(study, response, memo);
        const contrasts = once(() => contrastsOf(study, fit));
        const offer = once(() => offeredModel(study, response, fit.fitting, memo));
        const ladder = once(() => effectLadder(study, fit, [], memo));
        return {
          ok: true,
          fitted: {
            fit,
            predictor: presentPredictor(study, response, fit),
            chosen: storedModel(study, response) !== undefined,
            get offer() {
              return offer();
            },
            get ladder() {
              return ladder();
            },
            span: spanOf(fit),
            get contrasts() {
              return contrasts();
            },
          },
        };
      } catch (error) {
        if (!(error instanceof StudyError)) throw error;
        return { ok: false, refused: error };
      }
    });
  }

  /** Fits of rival sets of terms of a response, on the scale and with the waves of its present model. */
  rivalFits(fit: Fit, rivals: readonly Term[][]): { terms: Term[]; fit: Fit }[] {
    const { study, memo } = this;
    const { transform, block, curvature, eta } = fit.fitting;
    return memo.get("rivals", [...this.grounds(fit.response), transform, block, curvature, eta, rivals], () =>
      rivals.map((terms) => ({
        terms,
        fit: fitModel(study, fit.response, { terms, ...fit.fitting }, memo),
      })),
    );
  }

  /**
   * Goals with the models that serve them, or why there are none; the same thing again while nothing they rest on was
   * edited, so that who searched with it can tell whether its answer still stands.
   */
  wishes(): { ok: true; wishes: SetpointProblem } | { ok: false; refused: StudyError } {
    const { study, memo } = this;
    const { trials, factors, covariates, waves, region, confidence, responses, models } = study;
    const inputs = [trials, factors, covariates, waves, region, confidence, responses, models];
    return memo.get("wishes", inputs, () => {
      try {
        const predictorOf = (id: string) => {
          const found = this.fitted(id);
          if (!found.ok) throw found.refused;
          return found.fitted.predictor;
        };
        return { ok: true, wishes: setpointProblem(study, predictorOf) };
      } catch (error) {
        if (!(error instanceof StudyError)) throw error;
        return { ok: false, refused: error };
      }
    });
  }

  /** What a confirmation rests on. */
  private judging(): unknown[] {
    const { trials, factors, covariates, waves, region, confidence, responses, models, setpoint } = this.study;
    return [trials, factors, covariates, waves, region, confidence, responses, models, setpoint];
  }

  /** The trials of the last confirmation against the models; undefined where there is none. */
  confirmation(): Confirmation | undefined {
    return this.memo.get("confirmation", this.judging(), () => confirmation(this.study));
  }

  /** How far the setpoint is confirmed, in a word. */
  confirmed(): string {
    return this.memo.get("confirmed", this.judging(), () => confirmedFact(this.study));
  }

  /**
   * The rows that open below a plan; judged with the ledger's trials where the plan joins them.
   *
   * @param make works them out, or asks for them elsewhere, where they are not kept from before
   */
  planDetail<T>(summary: PlanSummary, request: PlanRequest, make: () => T): T {
    const { trials, factors, region, waves } = this.study;
    const inputs = [trials, factors, region, waves, summary.plan, request.terms, request.together === true];
    return this.memo.get("plan detail", inputs, make);
  }
}
