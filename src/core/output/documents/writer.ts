import { type Code, makeWriter } from '../code/code';

const { trusted } = makeWriter<'document'>();

/** The text of a printer of documents, which escapes what it prints itself: schedules, register descriptions. */
export const documentText = (text: string): Code<'document'> => trusted(text);
