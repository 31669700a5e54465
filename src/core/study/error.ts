import type { ErrorValues } from "../messages/errors";
import type { Message } from "../messages/message";
import { messageText } from "../words/answers";

type Path = ReadonlyArray<string | number>;

/** A refusal with a code for programs, a sentence for people and the place it is about. */
export class StudyError extends Error {
  /** Short stable code, such as `low-not-below-high`: what is said without its case. */
  readonly code: string;
  /** Path into the input, such as `["factors", 2, "low"]`. */
  readonly path: Path;
  /** What the sentence is made of, for another language and for the way between threads. */
  readonly said: Message<ErrorValues>;

  constructor(
    ...[code, values, path = []]: {
      [C in keyof ErrorValues]: [code: C, values: ErrorValues[C], path?: Path];
    }[keyof ErrorValues]
  ) {
    const said = { code, values } as Message<ErrorValues>;
    super(messageText("errors", said));
    this.name = "StudyError";
    this.code = code.split(".")[0];
    this.path = path;
    this.said = said;
  }

  /** The same refusal again, on the other side of a thread. */
  static of({ code, values }: Message<ErrorValues>, path: Path): StudyError {
    return new StudyError(...([code, values, path] as ConstructorParameters<typeof StudyError>));
  }
}
