/** How often a property is tried: a little with every test run, long in `npm run soak`. */
export const runs = (usual: number): { numRuns: number; endOnFailure: true } => ({
  numRuns: Math.round(usual * Number(process.env["CLOVIK_RUNS"] ?? 1)),
  endOnFailure: true,
});
