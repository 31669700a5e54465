import type { Response } from "../study/schema";
import { countLaw } from "./count/law";
import type { KindLaw } from "./law";
import { kindOf } from "./results";
import { shareLaw } from "./share/law";
import { valueLaw } from "./value/law";

/** The laws of all kinds: nothing else knows which laws there are. */
export const KIND_LAWS: Readonly<Record<string, KindLaw>> = { value: valueLaw, share: shareLaw, count: countLaw };

/** By which laws a response is fitted. */
export const kindLaw = (about: Pick<Response, "measured">): KindLaw => KIND_LAWS[kindOf(about).id];
