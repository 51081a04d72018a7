// Which room may import which: the floors that docs/architecture.md draws, held by `npm test`.
// A room imports from its own folder and from floors below it; tests and what serves only tests stand outside.

/** The server's floors, from the top. Rooms of one floor do not import each other. */
const serverFloors = [
  ["planning"],
  ["alerting", "briefing", "condition", "differences", "recordings", "steadiness"],
  ["messages"],
  ["quiet"],
  ["sharing"],
  ["relay", "forwarding"],
  ["dashboards", "rules", "counters", "events", "transfer", "intake"],
  ["reading"],
  ["machines"],
  ["links", "audit"],
  ["people"],
  ["sources"],
  ["gather"],
  ["beside"],
  ["costs", "transport"],
  ["store"],
  ["work", "jobs"],
  ["live"],
  ["http", "clock"],
  ["db"],
];

/** The web's floors, from the top. */
const webFloors = [["views"], ["frame"], ["shared"], ["sentence"], ["charts"], ["api"], ["time"], ["ui"]];

const onlyTests = "\\.test\\.tsx?$|(^|/)testing/";

const floorsOf = (root, floors) =>
  floors.flatMap((rooms, index) =>
    rooms.map((room) => {
      const above = [...floors.slice(0, index).flat(), ...rooms.filter((other) => other !== room)];
      return {
        name: `${root}-${room}`,
        severity: "error",
        comment: `${root}/${room} imports only its own folder and floors below it.`,
        from: { path: `^${root}/${room}/`, pathNot: onlyTests },
        to: {
          path: [`^${root}/(${above.join("|")})/`, `^${root}/[^/]+\\.tsx?$`],
          pathNot: `^${root}/(config|version|project-root|log-book|foreseen)\\.ts$`,
        },
      };
    }),
  );

module.exports = {
  forbidden: [
    ...floorsOf("server", serverFloors),
    ...floorsOf("web/src", webFloors),
    {
      name: "views-apart",
      severity: "error",
      comment: "A view never imports another view; what several need stands in web/src/shared or in core.",
      from: { path: "^web/src/views/([^/]+)/" },
      to: { path: "^web/src/views/", pathNot: "^web/src/views/$1/" },
    },
    {
      name: "core-alone",
      severity: "error",
      comment: "core/ knows no interface, no I/O and no database.",
      from: { path: "^core/", pathNot: onlyTests },
      to: { path: "^(server|web|bin|scripts|standins|bench|e2e)/" },
    },
    {
      name: "no-circle",
      severity: "error",
      comment: "No file reaches itself, by types either.",
      from: { pathNot: onlyTests },
      to: { circular: true },
    },
    {
      name: "no-folder-circle",
      severity: "error",
      comment: "No folder of core imports one that imports it back.",
      scope: "folder",
      from: { path: "^core/" },
      to: { circular: true },
    },
    {
      name: "no-tests-in-product",
      severity: "error",
      comment: "The product does not import what serves only tests.",
      from: { path: "^(core|server|web)/", pathNot: onlyTests },
      to: { path: onlyTests },
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    // What serves only tests is seen where the product imports it, which is an error; tests themselves are not looked at.
    exclude: { path: "\\.test\\.tsx?$" },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: { extensions: [".ts", ".tsx", ".mjs"] },
  },
};
