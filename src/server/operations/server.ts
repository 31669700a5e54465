import * as z from "zod";
import { MOST_NAME } from "../access/session";
import { done, json, named, type Operation } from "./operation";

/** What a person signs in with: the passphrase with the name that stands with changes, or a key of a bench. */
export const signInSchema = z.union([
  z.strictObject({ passphrase: z.string().max(1000), name: z.string().trim().max(MOST_NAME).default("") }),
  z.strictObject({ key: z.string().max(200) }),
]);

const sessionShape = named(
  "Session",
  z.strictObject({
    role: z.enum(["desk", "bench"]),
    name: z.string(),
    study: z.string().optional().describe("the study whose bench it is"),
    opened: z.boolean().describe("whether people sign in here: the server is open to a network"),
  }),
);

/** Whether the server answers, and who asks. */
export const ofServer: readonly Operation[] = [
  {
    id: "health",
    method: "get",
    path: "/api/health",
    summary: "Whether the server and its database answer",
    answers: done(named("Health", z.strictObject({ status: z.literal("ok") }))),
    problems: [500, 503, 507],
    reach: "anyone",
  },
  {
    id: "readSession",
    method: "get",
    path: "/api/session",
    summary: "Who asks, and whether people sign in here",
    answers: done(sessionShape),
    problems: [401],
    reach: "anyone",
  },
  {
    id: "signIn",
    method: "post",
    path: "/api/session",
    summary: "Sign in by the passphrase, or by a key of a bench; a cookie holds the session",
    body: json(named("SignInRequest", signInSchema)),
    answers: [{ status: 204, summary: "Signed in" }],
    problems: [400, 401, 413, 415, 422, 429],
    reach: "anyone",
  },
  {
    id: "signOut",
    method: "delete",
    path: "/api/session",
    summary: "End the session",
    answers: [{ status: 204, summary: "Signed out" }],
    problems: [],
    reach: "anyone",
  },
];
