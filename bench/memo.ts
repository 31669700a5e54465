import { Memo } from "../src/core/study";

/** What a page keeps between states of a study. */
export const memo = new Memo();
