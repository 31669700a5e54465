import { expectedNoise } from "./measured";
import type { Response, Study } from "./schema";

/** Responses that plans can be judged by: those whose noise is stated. */
export const judgedResponses = (study: Pick<Study, "responses">): Response[] =>
  study.responses.filter((r) => expectedNoise(r) !== undefined);

/** Smallest change worth finding over the noise; without end where none is stated. */
const reach = (r: Response): number => (r.smallest ?? Number.POSITIVE_INFINITY) / (expectedNoise(r) ?? 1);

/**
 * The response that is hardest to see, whose smallest change worth finding is smallest against its noise: plans are
 * judged by it first. The earlier one where two are alike.
 */
export const hardestResponse = (study: Pick<Study, "responses">): Response | undefined =>
  judgedResponses(study).reduce<Response | undefined>(
    (best, r) => (best === undefined || reach(r) < reach(best) ? r : best),
    undefined,
  );
