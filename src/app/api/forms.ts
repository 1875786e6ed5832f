import { number, object, string } from 'yup';
import { LARGEST_FILE_BYTES } from '@/core/formats/read-json';

/** Shapes of request bodies. Whole plans and edits have JSON Schemas instead (see core/formats). */

const id = string().required().max(80);

export const newPlanForm = object({
  name: string()
    .required('a plan needs a name')
    .max(120, 'the name is longer than 120 characters')
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is refused
    .matches(/^[^\u0000-\u001f]*\S[^\u0000-\u001f]*$/, 'the name holds characters that cannot be printed'),
  device: id,
  package: id,
});

export const importForm = object({
  fileName: string().required().max(300),
  text: string()
    .defined()
    .max(LARGEST_FILE_BYTES, `the file is larger than ${LARGEST_FILE_BYTES / 1_000_000} MB`),
});

export const editForm = object({
  editId: id,
  client: id,
  madeAgainst: number().required().integer().min(0),
  edit: object().required(),
});

export const exportForm = object({ seq: number().required().integer().min(0), target: id });
