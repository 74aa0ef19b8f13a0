interface Header {
  readonly key: string;
  readonly value: string;
}
export const GUARDS: readonly Header[];
export const PAGE_POLICY: string;
export const FILE_POLICY: string;
export const DATA_POLICY: string;
