import fc from "fast-check";

// Property tests look at the same cases at every run, so that a failure is a change; FC_SEED asks for others.
fc.configureGlobal({ seed: Number(process.env.FC_SEED ?? 20261123) });
