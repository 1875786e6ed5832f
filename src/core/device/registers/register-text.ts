import { hexText } from '../../base/text/hex';
import type { RecipeSource } from '../../description/recipe';
import type { Follower, Register } from './types';

/** An address in one view, in both number bases: which is which is always said. */
export interface AddressText {
  view: string;
  hex: string;
  decimal: string;
}

/** The register's address as the document prints it, where that is another one, and as the CPU sees it. */
export function addressTexts(register: Register, recipe: Pick<RecipeSource, 'addresses'>): AddressText[] {
  if (register.access.kind === 'internal') return [];
  const text = (view: string, address: number, bits: number): AddressText => ({
    view,
    hex: hexText(address, bits),
    decimal: String(address),
  });
  const cpu = text(
    recipe.addresses?.cpu ?? 'CPU address',
    register.address,
    register.address > 0xffff ? 32 : 16,
  );
  if (register.documentAddress === undefined) return [cpu];
  return [text(recipe.addresses?.document ?? 'document address', register.documentAddress, 8), cpu];
}

/** "I/O space hex 0x0B, decimal 11; memory space hex 0x002B, decimal 43". */
export const addressSentence = (register: Register, recipe: Pick<RecipeSource, 'addresses'>): string =>
  addressTexts(register, recipe)
    .map(({ view, hex, decimal }) => `${view} hex ${hex}, decimal ${decimal}`)
    .join('; ') || 'no address: internal state';

function levelsText({ follows, inverter }: Register): string {
  if (follows?.kind !== 'pads') return '';
  if (inverter) return `reads the levels at the pads, inverted where ${inverter.name} is 1`;
  return follows.inverted ? 'reads the levels at the pads, inverted' : 'reads the levels at the pads';
}

function followerText({ register, mask, source, shift, inverted, afterCycles }: Follower): string {
  const one = (mask & (mask - 1)) === 0;
  const low = 31 - Math.clz32(mask);
  const what = one
    ? `bit ${low} shows bit ${low - shift} of ${source === register ? 'itself' : source.name}`
    : `shows ${source.name}`;
  const when =
    afterCycles === Number.POSITIVE_INFINITY
      ? ' after a time that nobody states'
      : afterCycles > 0
        ? ` after ${afterCycles} cycles`
        : '';
  return `${what}${inverted ? ', inverted' : ''}${when}`;
}

/** What a register is and how it behaves, in words. */
export function behaviourText(register: Register): string {
  const {
    access,
    locks,
    guards,
    commit,
    always,
    follows,
    readOnlyMask,
    flagMask,
    zeroFlagMask,
    overlaps,
    bits,
  } = register;
  const parts = [register.title];
  switch (access.kind) {
    case 'read':
      parts.push(follows?.kind === 'pads' ? levelsText(register) : 'read only');
      break;
    case 'write':
      parts.push('write only');
      break;
    case 'set':
    case 'clear':
    case 'toggle':
      parts.push(`writing 1 ${access.kind}s bits of ${register.target?.name}`);
      break;
    case 'set-clear':
      parts.push(
        `ones in the ${access.setting} half set bits of ${register.target?.name}, ones in the ${access.setting === 'lower' ? 'upper' : 'lower'} half clear them; both ${access.both === 'keep' ? 'leave them' : access.both}`,
      );
      break;
    case 'alias':
      parts.push(`${register.target?.name} at a second address`);
      break;
    case 'strobe':
      parts.push('writing 1 starts something; nothing is held');
      break;
    case 'act':
      parts.push(`writing 1 copies that bit of ${register.from?.name} to ${register.target?.name}`);
      break;
    case 'masked':
      parts.push('the upper half says which bits of the lower half are written');
      break;
    case 'internal':
      parts.push('internal state; no address reaches it');
      break;
    case 'clauses':
      parts.push('behaves as its clauses say');
      break;
    case 'key':
      parts.push(
        `${access.keys.map((key) => hexText(key, bits)).join(', then ')} opens ${access.opens.join(', ')}${access.writes ? (access.writes === 1 ? ' for one write' : ` for ${access.writes} writes`) : ''}${access.unbroken ? '; every write counts' : ''}`,
      );
      break;
  }
  if (readOnlyMask !== 0) parts.push(`bits ${hexText(readOnlyMask, bits)} ignore writes`);
  if (flagMask !== 0) parts.push(`writing 1 to bits ${hexText(flagMask, bits)} clears them`);
  if (zeroFlagMask !== 0) parts.push(`writing 0 to bits ${hexText(zeroFlagMask, bits)} clears them`);
  if (register.unknownReset !== 0)
    parts.push(`bits ${hexText(register.unknownReset, bits)} have no reset value`);
  if (overlaps.length > 0)
    parts.push(`shares its address with ${overlaps.map((one) => one.name).join(', ')}`);
  if (always)
    parts.push(`every write must hold ${hexText(always.value, bits)} in ${hexText(always.mask, bits)}`);
  for (const key of locks) parts.push(`opened by ${key.name}`);
  if (commit)
    parts.push(
      `takes writes where ${commit.register === register ? 'its own bits' : commit.register.name}${commit.from ? ` from bit ${commit.from}` : ''} ${commit.openAt === 1 ? 'are 1' : 'are 0'}`,
    );
  for (const { bit, inverted, invertedBy } of register.levels)
    parts.push(
      `bit ${bit} shows the level of the pad${invertedBy ? `, inverted where ${invertedBy.register.name} bit ${invertedBy.bit} is 1` : inverted ? ', inverted' : ''}`,
    );
  if (register.returns)
    parts.push(
      `returns to ${hexText(register.returns.value, bits)} by itself ${register.returns.afterCycles === Number.POSITIVE_INFINITY ? 'after a time that nobody states' : `within ${register.returns.afterCycles} cycles`}`,
    );
  for (const one of register.followers) parts.push(followerText(one));
  for (const guard of guards)
    parts.push(
      `${guard.stops === 'writes' ? 'takes writes' : 'works'} while ${guard.register.name} bit ${guard.bit} is ${guard.openAt}`,
    );
  return parts.filter(Boolean).join('; ');
}
