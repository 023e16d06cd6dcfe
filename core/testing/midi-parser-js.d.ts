declare module 'midi-parser-js' {
  const parser: { parse(file: Uint8Array): unknown };
  export default parser;
}
