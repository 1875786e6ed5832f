/** A text of a message, cut where it is longer than so many characters. */
export const clip = (text: string, most = 60): string =>
  text.length > most ? `${text.slice(0, most - 3)}…` : text;
