/** Files that Vite gives as an address. */
declare module "*?url" {
  const url: string;
  export default url;
}
