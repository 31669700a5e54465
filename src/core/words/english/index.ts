import type { Language } from "../language";
import { doubts } from "./bench";
import { approximate, checks, questions, statistics } from "./checks";
import { errors } from "./errors";
import { changeWords, spots } from "./history";
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
  spots,
  changes: changeWords,
};
