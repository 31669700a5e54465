import { type AlternativeFit, fitAlternative } from "./model/alternative-fits";
import { modelWeights } from "./model/average";
import { storedModel } from "./model/data";
import { type Fit, type FitOptions, type FoundFit, fitModel, foundFits } from "./model/fit";
import { effectLadder } from "./model/ladder";
import { contrastsOf } from "./model/lenth";
import type { LinearSurface } from "./model/linear-surface";
import { type Offer, offeredModel, presentFit } from "./model/offer";
import { spreadOf } from "./model/own-spread";
import { type Reduced, type ReduceOptions, reduceModel } from "./model/reduce";
import type { Surface } from "./model/surface";
import type { PlanRequest, PlanSummary } from "./planning/plan-summary";
import {
  type Confirmation,
  confirmation,
  confirmationInterval,
  confirmationsFor,
  confirmedFact,
} from "./setpoint/confirm";
import { type SetpointProblem, setpointProblem } from "./setpoint/goals";
import { StudyError } from "./study/error";
import { type Memo, once } from "./study/memo";
import type { Settings, Study, Term } from "./study/schema";
import { afterTrials, averagedPredictor, presentLinear } from "./surface/average";

/** A fit with what is read off it, each worked out when first asked for. */
export interface Fitted {
  fit: Fit;
  /** What is predicted, and the linear model that it comes from. */
  predictor: Surface;
  linear: LinearSurface;
  /** Whether the model was chosen, rather than the one first offered. */
  chosen: boolean;
  /** The model first offered on this scale, whatever is chosen. */
  readonly offer: Offer;
  readonly ladder: ReturnType<typeof effectLadder>;
  /** Least and greatest fitted value over the trials, in the response's own units. */
  span: [number, number];
  readonly contrasts: ReturnType<typeof contrastsOf>;
}

/** Models of rival sets of terms, in their order; weights and average where there are two or more. */
export interface RivalFits {
  fits: Fit[];
  weights: number[];
  average?: LinearSurface;
}

/** The fit of a response, or why there is none. */
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

  /** What was found for fits so far, to be handed to another thread. */
  found(): FoundFit[] {
    return foundFits(this.study, this.memo);
  }

  /** The fit of a response as the study stands, with what is read off it; or why there is none. */
  fitted(response: string): FitResult {
    const { study, memo } = this;
    // A stored model of how it scatters is what its single trials are predicted by.
    const about = study.responses.find((r) => r.id === response);
    const spread = about && spreadOf(study, about);
    const stored = [storedModel(study, response), spread, spread && storedModel(study, spread.id)];
    return memo.get("fitted", [...this.grounds(response), ...stored], (): FitResult => {
      const refused = this.tooMuch(response);
      if (refused) return { ok: false, refused };
      try {
        const fit = presentFit(study, response, memo);
        const linear = presentLinear(study, response, memo, fit);
        const contrasts = once(() => contrastsOf(study, fit));
        const offer = once(() => offeredModel(study, response, fit.fitting, memo));
        const ladder = once(() => effectLadder(study, fit, [], memo));
        return {
          ok: true,
          fitted: {
            fit,
            predictor: afterTrials(study, linear, memo),
            linear,
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

  /**
   * What terms reducing leaves, of a pool.
   * @throws StudyError as `reduceModel`
   */
  reduced(response: string, pool: readonly Term[], options: ReduceOptions): Reduced {
    return reduceModel(this.study, response, pool, options, this.memo);
  }

  /**
   * The fit of a response in another way.
   * @throws StudyError as `fitAlternative`
   */
  alternative(fit: Fit, way: AlternativeFit): { study: Study; fit: Fit } {
    return fitAlternative(this.study, fit, way, this.memo);
  }

  /** Rival sets of terms of a response, on the scale and with the waves of its present model, and their average. */
  rivals(fit: Fit, rivals: readonly Term[][]): RivalFits {
    const { study, memo } = this;
    const { transform, block, curvature, eta } = fit.fitting;
    const weighing = storedModel(study, fit.response)?.average ?? "akaike";
    const inputs = [...this.grounds(fit.response), fit.terms, transform, block, curvature, eta, rivals, weighing];
    return memo.get("rivals", inputs, (): RivalFits => {
      const fits = rivals.map((terms) => this.fit(fit.response, { terms, ...fit.fitting }));
      if (fits.length < 2) return { fits, weights: [] };
      return {
        fits,
        weights: modelWeights(fits, weighing),
        average: averagedPredictor(study, fits, weighing, fit, memo),
      };
    });
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
        return { ok: true, wishes: setpointProblem(study, memo, predictorOf) };
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
    return confirmation(this.study, this.memo);
  }

  /** Where the mean of confirmation trials should lie, by `confirmationInterval`. */
  expected(response: string, settings: Settings, trials: number, together: number, setups: number | undefined) {
    const { study, memo } = this;
    return confirmationInterval(study, response, settings, trials, together, { setups, memo });
  }

  /** Fewest confirmation trials for an interval no wider than asked, by `confirmationsFor`. */
  confirmationsFor(response: string, settings: Settings, half: number): number | null {
    return confirmationsFor(this.study, response, settings, half, this.memo);
  }

  /** How far the setpoint is confirmed, in a word. */
  confirmed(): string {
    return this.memo.get("confirmed", this.judging(), () => confirmedFact(this.study, this.memo));
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
