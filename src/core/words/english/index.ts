import type { Language } from "../language";
import { approximate, checks, questions, statistics } from "./checks";
import { errors } from "./errors";
import { actions, readings } from "./readings";
import { suspects } from "./suspects";
import { risks, whys } from "./waves";

export const english: Language = {
  checks,
  questions,
  statistics,
  approximate,
  readings,
  actions,
  whys,
  risks,
  suspects,
  errors,
};
