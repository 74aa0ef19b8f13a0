declare module "*?sharing" {
  /** Address of the script, which shares modules with the page. */
  const url: string;
  export default url;
}
declare module "*?bundled" {
  /** Address of the bundled script. */
  const url: string;
  export default url;
}
