import guards from "./guards.json";

/** Headers of every answer: the page is isolated, so that threads may share memory, and nobody frames or sniffs it. */
export const GUARDS: readonly { readonly key: string; readonly value: string }[] = guards;
