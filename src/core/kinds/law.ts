import type { Link } from "../model/fitted";
import type { Counted } from "../model/laws/counting";
import type { Law } from "../model/laws/law";
import type { ModelData } from "../model/model-data";
import type { Response, Result, Trial } from "../study/schema";

/** Which law fits a kind of response, and what of its trials that law goes by. */
export interface KindLaw {
  /** What trials hold beside one value each. */
  gathered(about: Response, trials: readonly Trial[]): Pick<ModelData, "counted" | "pieces">;
  lawOf(data: Pick<ModelData, "setups" | "weights" | "pieces">): Law;
  /** A result on the scale of its model, where trials are told from each other by normal errors. */
  onFitted(result: Result | undefined, about: Response, link: Link): number | null;
  /** How events are counted, where they are. */
  counting?: Counted;
  /**
   * Whether anything can be told of it.
   * @throws StudyError where nothing can
   */
  check?(about: Response, data: ModelData): void;
}
