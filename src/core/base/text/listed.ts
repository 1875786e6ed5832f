/** "A, B, C and 4 more": a list that a sentence can hold, of at most `most` entries. */
export const listed = (names: readonly string[], most = 8): string =>
  names.length <= most
    ? names.join(', ')
    : `${names.slice(0, most - 1).join(', ')} and ${names.length - most + 1} more`;
