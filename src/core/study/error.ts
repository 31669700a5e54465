/** A refusal with a code for programs, a sentence for people and the place it is about. */
export class StudyError extends Error {
  /** Short stable code, such as `low-not-below-high`. */
  readonly code: string;
  /** Path into the input, such as `["factors", 2, "low"]`. */
  readonly path: ReadonlyArray<string | number>;

  constructor(code: string, message: string, path: ReadonlyArray<string | number> = []) {
    super(message);
    this.name = "StudyError";
    this.code = code;
    this.path = path;
  }
}
