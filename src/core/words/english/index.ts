import type { Language } from "../language";
import { approximate, checks, questions, statistics } from "./checks";
import { errors } from "./errors";
import { changeWords, locations } from "./history";
import { doubts } from "./operator";
import { places } from "./places";
import { actions, readings } from "./readings";
import { remarks, unfits } from "./remarks";
import { suspects } from "./suspects";
import { columns, rows, typings } from "./typed";
import { risks, waveNames, whys } from "./waves";
import { workbooks } from "./workbooks";

export const english: Language = {
  checks,
  questions,
  statistics,
  approximate,
  readings,
  actions,
  whys,
  waveNames,
  risks,
  suspects,
  errors,
  remarks,
  unfits,
  places,
  typings,
  rows,
  columns,
  workbooks,
  doubts,
  locations,
  changes: changeWords,
};
