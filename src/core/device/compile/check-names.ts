/**
 * Every name in a description leads somewhere. Packages, pad classes, peripheral kinds, pads taken along and interrupt lines name
 * pads, signals, lines and values; conditions name columns, reset values instances. A misspelt one would silently take its statement
 * out of the part. All other names in the recipe are checked where they are compiled. These checks are for descriptions from outside:
 * what a server has taken already stays readable.
 */
import type { Problems } from '../../base/problems';
import { listed } from '../../base/text/listed';
import { didYouMean } from '../../base/text/near';
import { ExpressionError } from '../../description/language/expression';
import { type Has, parseHas, parseWhere } from '../../description/language/has';
import { variablesOf } from '../../description/language/scope';
import { linesOf, namesIn, whyNoLine, whyNoSuch } from '../../description/references';
import { isOwnKey, type SettingKey, settingKind, settingTitle } from '../../description/settings';
import { splitSignal } from '../../description/types';
import type { Device } from '../device';
import { wordsOf } from '../fields/check-meanings';
import { interruptLine } from '../interrupt-lines';
import { instancesOf } from '../registers/instances';

export function checkNames(device: Device, problems: Problems): void {
  const { description } = device;
  const complain = (place: string, message: string | undefined): void => {
    if (message !== undefined) problems.push({ place, message });
  };
  const pads = (place: string, list: readonly string[] = []): void => {
    for (const pad of list) complain(place, whyNoSuch(description, 'pad', pad));
  };

  for (const pkg of description.packages) {
    for (const [index, removal] of (pkg.removes ?? []).entries()) {
      const place = `package ${pkg.id}, removes ${index + 1}`;
      pads(place, removal.pads);
      for (const pattern of removal.signals ?? []) complain(place, whyNoSignals(device, pattern));
      if (removal.note !== undefined) complain(place, whyNoSuch(description, 'note', removal.note));
    }
  }

  for (const [id, padClass] of Object.entries(description.padClasses)) {
    for (const { setting, values } of padClass.lacks ?? [])
      for (const value of values)
        complain(`padClasses, ${id}, lacks ${setting}`, whyNoValue(device, setting as SettingKey, value));
    for (const [setting, table] of [
      ['drive', padClass.byDrive],
      ['speed', padClass.bySpeed],
    ] as const)
      for (const value of Object.keys(table ?? {}))
        complain(`padClasses, ${id}`, whyNoValue(device, setting, value));
  }

  for (const [id, kind] of Object.entries(description.peripheralKinds)) {
    const lines = Object.keys(kind.lines);
    const place = `peripheralKinds, ${id}`;
    for (const [key, list] of [
      ['needs', kind.needs],
      ['rate, lines', kind.rate?.lines],
    ] as const)
      for (const line of list ?? [])
        if (!lines.includes(line))
          complain(`${place}, ${key}`, `there is no line ${line}${didYouMean(line, lines)}`);
    for (const [line, { defaults = {} }] of Object.entries(kind.lines))
      for (const [setting, value = ''] of Object.entries(defaults))
        complain(`${place}, line ${line}`, whyNoDefault(device, setting as SettingKey, value));
  }

  for (const [index, forced] of (description.forced ?? []).entries()) {
    const place = `forced ${index + 1}`;
    const why = whyNoLine(description, forced.signal);
    complain(place, why);
    pads(place, [forced.pad, ...forced.takes]);
    if (
      why === undefined &&
      namesIn(description, 'pad').has(forced.pad) &&
      !(device.functionsByPad.get(forced.pad) ?? []).some(({ signal }) => signal === forced.signal)
    )
      complain(place, `${forced.pad} has no function ${forced.signal}`);
  }

  checkInterruptNames(device, problems);
  checkConditions(device, problems);
  checkColumns(device, problems);
  checkResets(device, problems);
  for (const key of Object.keys(description.recipe.settings) as SettingKey[])
    checkValues(device, key, problems);
}

function checkInterruptNames(device: Device, problems: Problems): void {
  const { interrupts, pads } = device.description;
  if (interrupts?.number === undefined) return;
  for (const pad of pads) {
    if (pad.kind !== 'io' || pad.port === undefined) continue;
    try {
      interruptLine(device, pad);
    } catch (error) {
      if (!(error instanceof ExpressionError)) throw error;
      problems.push({ place: `interrupts, number, pad ${pad.id}`, message: error.message });
      return;
    }
  }
}

/** Why no signal is meant by a pattern: `UART2.TX`, `SPI3.*`, `*.SDA`. */
function whyNoSignals({ description }: Device, pattern: string): string | undefined {
  const [instance = '', line = ''] = splitSignal(pattern);
  if (instance !== '*' && line !== '*') return whyNoLine(description, pattern);
  if (instance !== '*') return whyNoSuch(description, 'peripheral', instance);
  if (line === '*') return undefined;
  const lines = description.peripherals.flatMap(({ id }) => linesOf(description, id) ?? []);
  return lines.includes(line) ? undefined : `no peripheral has a line ${line}${didYouMean(line, lines)}`;
}

/**
 * What a value of a setting was probably meant to be. Pad classes and lines may speak of values that the recipe does not have: the
 * registers of a drive strength may not be described yet.
 */
function whyNoValue({ description }: Device, setting: SettingKey, value: string): string | undefined {
  const values = description.recipe.settings[setting];
  if (values === undefined || values.includes(value)) return undefined;
  const meant = didYouMean(value, values);
  return meant === '' ? undefined : `${settingTitle(setting)} has no value ${value}${meant}`;
}

/** What a line usually is may also be said in the trade's words, which a part may call otherwise, or not have. */
function whyNoDefault(device: Device, setting: SettingKey, value: string): string | undefined {
  const { values } = settingKind(setting);
  return values !== 'part' && Object.hasOwn(values, value) ? undefined : whyNoValue(device, setting, value);
}

/** Columns that conditions ask for are filled in somewhere: one that is empty everywhere makes what it is for vanish. */
function checkConditions({ description }: Device, problems: Problems): void {
  const { registers, fields, stages, excludes } = description.recipe;
  const variables = variablesOf(description);
  const check = (text: string | undefined, read: (text: string) => Has, place: string): void => {
    for (const name of text === undefined ? [] : read(text).variables)
      if (!variables.has(name))
        problems.push({
          place,
          message: `${name} has a value nowhere in this part${didYouMean(name, variables)}`,
        });
  };
  for (const block of registers.blocks) {
    check(block.has, parseHas, `recipe, block ${block.id}, has`);
    for (const register of block.registers)
      check(register.has, parseHas, `recipe, block ${block.id}, register ${register.id}, has`);
  }
  for (const [index, guard] of (registers.guards ?? []).entries())
    check(guard.has, parseHas, `recipe, guard ${index + 1}, has`);
  for (const [id, field] of Object.entries(fields)) check(field.has, parseHas, `recipe, field ${id}, has`);
  for (const stage of stages) check(stage.where, parseWhere, `recipe, stage ${stage.id}, where`);
  for (const [index, exclude] of (excludes ?? []).entries())
    check(exclude.where, parseHas, `recipe, excludes ${index + 1}, where`);
}

/** A column that nothing asks for and that is nearly one that is asked for is misspelt: the asker would miss its value there. */
function checkColumns({ description }: Device, problems: Problems): void {
  const { recipe, peripherals, interrupts } = description;
  const text = JSON.stringify([recipe, interrupts ?? null]);
  const asked = new Set(
    [...text.matchAll(/\b(?:pad|port|fn|signal|peripheral)\.([A-Za-z_]\w*)/g)].map(
      ([, column = '']) => column,
    ),
  );
  const check = (place: string, columns: Record<string, number> | undefined): void => {
    for (const column of Object.keys(columns ?? {}))
      if (!asked.has(column) && didYouMean(column, asked) !== '')
        problems.push({ place, message: `nothing asks for a column ${column}${didYouMean(column, asked)}` });
  };
  for (const { id, columns } of peripherals) check(`peripheral ${id}, columns`, columns);
  for (const [port, columns] of Object.entries(recipe.ports)) check(`recipe, port ${port}`, columns);
}

/** Reset values by name are for instances that there are, all of them or the others by `*`; a list has one for each of an array. */
function checkResets({ description }: Device, problems: Problems): void {
  for (const block of description.recipe.registers.blocks) {
    const keys = instancesOf(description, block).map(({ key }) => key);
    for (const { id, reset, count = 1 } of block.registers) {
      if (reset === undefined || typeof reset === 'string') continue;
      const place = `recipe, block ${block.id}, register ${id}, reset`;
      for (const [key, value] of Object.entries(reset)) {
        if (key !== '*' && !keys.includes(key))
          problems.push({
            place,
            message: `there is no ${key} here${didYouMean(key, keys) || `; there are ${listed(keys)}`}`,
          });
        if (typeof value !== 'string' && value.length !== count)
          problems.push({
            place: `${place}, ${key}`,
            message: `lists ${value.length} values, and there are ${count} registers`,
          });
      }
      const missing = keys.filter((key) => !Object.hasOwn(reset, key));
      if (missing.length > 0 && !Object.hasOwn(reset, '*'))
        problems.push({
          place,
          message: `says nothing of ${listed(missing)}; name each, or give all the others a value with "*"`,
        });
    }
  }
}

/** A value that is nearly one of the trade's words is misspelt, unless the part explains it as its own; a mode is always one of them. */
function checkValues({ description }: Device, key: SettingKey, problems: Problems): void {
  const { settings, meanings } = description.recipe;
  const words = isOwnKey(key) ? undefined : wordsOf(key);
  if (!words) return;
  for (const value of settings[key] ?? []) {
    const meant = didYouMean(value, words);
    const meaning = meanings?.[key]?.values?.[value];
    const explained = meaning?.is !== undefined || meaning?.says !== undefined;
    if (words.includes(value) || (key !== 'mode' && (explained || meant === ''))) continue;
    const hint =
      key === 'mode' ? '' : ' A value of the part’s own is explained under "meanings", with "is" or "says".';
    problems.push({
      place: `recipe, settings, ${key}`,
      message: `there is no value ${value}${meant || `; there are ${words.join(', ')}`}${hint}`,
    });
  }
}
