import deviceSchema from '../../../../docs/schema/mavrek-device-3.schema.json';
import recipeSchema from '../../../../docs/schema/mavrek-recipe-3.schema.json';
import { ajv, inPieces } from '../../base/json/validators';

// The recipe file speaks of parts of the description.
ajv.addSchema(deviceSchema).addSchema(recipeSchema);

/** What is wrong with a description, or with a recipe file, by the published schemas, with places. */
export const deviceProblems = inPieces(deviceSchema, ['packages', 'pads', 'functions']);
export const recipeProblems = inPieces(recipeSchema, []);
