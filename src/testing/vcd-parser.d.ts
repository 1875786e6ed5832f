declare module 'vcd-parser' {
  const parser: { parse(text: string, done: (error: unknown, result: never) => void): void };
  export default parser;
}
