declare module "*?bundled" {
  /** Address of the bundled script. */
  const url: string;
  export default url;
}
