/** The floors of the house: nothing imports upwards, nothing goes round in circles. */
const core = "^src/core/";
/** What the rest of the house may import of the core; nothing in the core goes through them. */
const doors = `${core}(study|plans|model|setpoint|findings|formats|operator|questions)/index\\.ts$`;
const floor = (name, from, to) => ({ name, severity: "error", from: { path: from, pathNot: `\\.test\\.ts$|${doors}` }, to: { path: to } });
const inCore = (parts) => parts.map((p) => `${core}${p}`).join("|");
/** A facet of the kinds of response: its contract, its registry, and each kind's own. */
const facet = (own, registry) =>
  [own, registry, `counted-${own}`, `[^/]+/${own}`].map((name) => `kinds/${name}\\.ts`);
// Each room may ask those above it in this list, never those below.
const rooms = [
  ["numerics"],
  ["messages/"],
  ["words/"],
  [...facet("result", "results"), "kinds/repeats"],
  ["study/"],
  ["terms/"],
  ["appraisal/"],
  ["plans/"],
  ["model/", ...facet("law", "laws")],
  ["surface/"],
  ["setpoint/", ...facet("lot", "lots")],
  ["rigs/", "operator/", "history/"],
  ["follow-up/"],
  ["planning/", ...facet("planning", "plannings")],
  ["formats/"],
  ["programs/"],
  ["findings/"],
  ["study-view"],
  ["questions/"],
];
const upward = rooms.slice(0, -1).map((own, i) => floor(`core-no-upward-${i}`, inCore(own), inCore(rooms.slice(i + 1).flat())));

/** Of every import, those of types among them. */
const everyImport = [
  { name: "core-is-pure", severity: "error", from: { path: core, pathNot: "\\.test\\.ts$|/testing/" }, to: { path: "^src/(server|app|stations|ui|cli)/|node_modules/(react|next|antd|sequelize|sqlite3|d3-)" } },
  { name: "core-no-node", severity: "error", from: { path: core, pathNot: "\\.test\\.ts$" }, to: { dependencyTypes: ["core"] } },
  { name: "core-by-its-doors", severity: "error", from: { path: "^src/(server|app|stations|ui|cli)/" }, to: { path: core, pathNot: doors } },
  { name: "core-not-by-doors", severity: "error", from: { path: core }, to: { path: doors } },
  // What a law knows of its errors stays with it: all else speaks to the fitted model.
  {
    name: "laws-within-model",
    severity: "error",
    from: { path: "^src/", pathNot: `${inCore(["model/", ...facet("law", "laws")])}|\\.test\\.ts$|/testing/` },
    to: { path: `${core}model/laws/` },
  },
  // A kind is known to the registries of its facets alone: all else asks the object.
  floor("kinds-by-registry", "^src/(?!core/(kinds|testing)/)", `${core}kinds/[^/]+/`),
  ...upward,
  // What is said is stated below every language; a refusal alone carries its sentence with it.
  floor("study-without-words", `${core}study/(?!error)`, `${core}words/`),
  { name: "core-no-circular", severity: "error", from: { path: core, pathNot: "\\.test\\.ts$" }, to: { circular: true } },
  floor("ui-below-stations", "^src/ui/", "^src/(stations|app|server|cli)/"),
  floor("stations-apart", "^src/stations/([^/]+)/", "^src/stations/(?!$1/)"),
  floor("stations-below-app", "^src/stations/", "^src/(app|cli)/"),
  floor("server-below-app", "^src/server/", "^src/(app|stations|ui|cli)/"),
  floor("cli-alone", "^src/cli/", "^src/(app|stations|ui|server)/"),
  { name: "no-orphans", severity: "error", from: { orphan: true, pathNot: "\\.(css|json|d\\.ts)$|^src/app/|/testing/|theme\\.ts$" }, to: {} },
];

/** Of imports that remain when types are gone: what a program would stumble over. */
const valueImports = [
  { name: "no-circular", severity: "error", from: { pathNot: "\\.test\\.ts$" }, to: { circular: true } },
  // A station may read the types of what the server hands it, nothing else of the server.
  floor("stations-without-server", "^src/stations/", "^src/server/"),
];

module.exports = {
  forbidden: process.env.LAYERS === "values" ? valueImports : everyImport,
  options: {
    parser: "swc",
    tsConfig: { fileName: "tsconfig.json" },
    tsPreCompilationDeps: true,
    doNotFollow: { path: "node_modules" },
    exclude: { path: "\\.test\\.ts$" },
    enhancedResolveOptions: { extensions: [".ts", ".tsx", ".js", ".mjs", ".json"] },
  },
};
