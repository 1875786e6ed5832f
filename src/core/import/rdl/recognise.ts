/** Whether a text is a register description in SystemRDL: by its name, or by a definition of an address map, register or field. */
export const isRdl = (name: string, text: string): boolean =>
  /\.rdl$/i.test(name) ||
  /^\s*(?:(?:\/\/[^\n]*\n|\/\*[^*]*\*+(?:[^/*][^*]*\*+)*\/)\s*)*(?:addrmap|regfile|reg|field|enum)\s+\w+\s*(?:#\s*\(|\{)/.test(
    text,
  );
