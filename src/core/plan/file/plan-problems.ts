import { inPieces } from '../../base/json/validators';
import { PLAN_SCHEMA } from '../model/schema';

/** What is wrong with a plan by its schema, with places. */
export const planProblems = inPieces(PLAN_SCHEMA, [
  'circuits',
  'nets',
  'constraints',
  'waivers',
  'attachments',
  'trials',
]);
