import type { Response } from "../study/schema";
import { countLot } from "./count/lot";
import type { KindLot } from "./lot";
import { kindOf } from "./results";
import { shareLot } from "./share/lot";

/** Of kinds whose limits are asked of a lot; those of others are asked of one trial. */
const KIND_LOTS: Readonly<Record<string, KindLot>> = { share: shareLot, count: countLot };

/** What a lot of a response says of what is behind it; undefined where limits are asked of one trial. */
export const kindLot = (about: Pick<Response, "measured">): KindLot | undefined => KIND_LOTS[kindOf(about).id];

/** Pieces, or exposure, of the next lot that limits are asked of. */
export const lotSize = ({ lot, of }: Pick<Response, "lot" | "of">, usual: number): number => lot ?? of ?? usual;
