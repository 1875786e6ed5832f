import { fieldTitle } from '../plan/model/field-titles';
import type { VariantReport } from './variants';

/** A report on variants for people. */
export function variantText({
  variants,
  circuits,
  lacks,
  differences,
  names,
  onePrefix,
}: VariantReport): string {
  const called = variants.map(
    ({ name, revision }, at) => `${name}${revision === '' ? '' : ` ${revision}`} (${at + 1})`,
  );
  const list = (flags: readonly boolean[], wanted: boolean): string =>
    called.filter((_, at) => flags[at] === wanted).join(', ');
  return [
    ...variants.map(
      ({ part, package: pkg, prefix }, at) => `${called[at]}: ${part}, ${pkg}; names begin with ${prefix}_`,
    ),
    `shared circuits: ${circuits.length > 0 ? circuits.join(', ') : 'none'}`,
    ...(lacks.length > 0 ? ['', 'Nets that some lack'] : []),
    ...lacks.map(({ circuit, net, has }) => `  ${net} (${circuit}): not in ${list(has, false)}`),
    ...(differences.length > 0 ? ['', 'What they do not agree on'] : []),
    ...differences.map(
      ({ circuit, net, field, values }) =>
        `  ${net} (${circuit}), ${fieldTitle(field)}: ${values.map((value, at) => `${value === null ? 'no such net' : value === '' ? 'not said' : value} (${at + 1})`).join(', ')}`,
    ),
    ...(onePrefix ? [] : ['', 'The headers have names that begin differently: give all the same prefix']),
    ...(names.length > 0 ? ['', 'Names that not all headers have, or that are declared differently'] : []),
    ...names.map(
      ({ name, declarations }) =>
        `  ${name}: ${declarations.map((one, at) => `${one === null ? 'none' : one} (${at + 1})`).join(', ')}`,
    ),
    '',
    isAgreed({ lacks, differences, names, onePrefix })
      ? 'all variants agree'
      : `${lacks.length} nets are lacking, ${differences.length} differ, ${names.length} names differ`,
  ].join('\n');
}

/** One application fits all of them. */
export const isAgreed = ({
  lacks,
  differences,
  names,
  onePrefix,
}: Pick<VariantReport, 'lacks' | 'differences' | 'names' | 'onePrefix'>): boolean =>
  lacks.length + differences.length + names.length === 0 && onePrefix;
