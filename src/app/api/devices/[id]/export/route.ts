import { zipSync } from 'fflate';
import { printDevice } from '@/core/formats/device-files';
import { printSvd } from '@/core/formats/svd/print-svd';
import { hasRecipe } from '@/core/recipe/types';
import { printTables } from '@/core/tables/print-tables';
import { attachment } from '@/core/text/file-name';
import { partDevice } from '@/server/parts';
import { notFound, refuse, route } from '../../../http';

export const dynamic = 'force-dynamic';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** The part as files: `?as=json`, `tables` (a zip of three files), `svd` or `corrections`. Ids are file names already. */
export const GET = route<{ id: string }>(async (request, { id }) => {
  const device = await partDevice(id);
  if (!device) return notFound('part');
  const file = (name: string, type: string, body: string | Uint8Array): Response =>
    new Response(body as BodyInit, {
      headers: { 'content-type': type, 'content-disposition': attachment(name) },
    });
  const { original } = device;
  const json = 'application/json; charset=utf-8';
  switch (new URL(request.url).searchParams.get('as')) {
    case 'json':
      return file(`${id}.device.json`, json, printDevice(original));
    case 'corrections':
      return file(`${id}.corrections.json`, json, `${JSON.stringify(original.corrections ?? [], null, 2)}\n`);
    case 'tables': {
      const { pinout, functions, recipe } = printTables(original);
      const files: Record<string, Uint8Array> = {
        'pinout.csv': bytes(pinout),
        'functions.csv': bytes(functions),
        'recipe.json': bytes(recipe),
      };
      if (original.corrections)
        files['corrections.json'] = bytes(`${JSON.stringify(original.corrections, null, 2)}\n`);
      const zip = zipSync(files);
      return file(`${id}.tables.zip`, 'application/zip', zip);
    }
    case 'svd':
      if (!hasRecipe(device.description.recipe))
        return refuse(409, { place: 'part', message: 'has no registers yet' });
      return file(`${id}.svd`, 'application/xml; charset=utf-8', printSvd(device));
    default:
      return refuse(400, { place: 'as', message: 'must be json, tables, svd or corrections' });
  }
});
