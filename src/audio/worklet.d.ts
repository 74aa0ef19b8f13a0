declare module "*?worklet" {
  /** Address of the bundled processor. */
  const url: string;
  export default url;
}
