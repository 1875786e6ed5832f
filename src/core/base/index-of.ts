declare const list: unique symbol;

/** A position in a list of that name: a number that is not taken for one of another list. */
export type IndexOf<List extends string> = number & { readonly [list]?: List };
