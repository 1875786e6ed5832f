import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { readDeviceFiles } from '@/core/formats/device-files';
import { type Device, loadDevice } from '@/core/recipe/device';
import { fail, type Problem, type Result } from '@/core/result';

/** The folder with one sub-folder a part; the launcher sets MAVREK_HOME to the checkout. */
export const devicesFolder = (): string => join(process.env.MAVREK_HOME ?? process.cwd(), 'devices');

/** Reads and checks one part's folder. */
export function readDeviceFolder(folder: string): Result<Device> {
  // Named by folder and file only: the name is kept as the source of each datum and must not depend on the machine.
  const file = (name: string) => ({
    name: `${basename(folder)}/${name}`,
    text: readFileSync(join(folder, name), 'utf8'),
  });
  try {
    const description = readDeviceFiles(file('pinout.csv'), file('functions.csv'), file('recipe.json'));
    return description.ok ? loadDevice(description.value) : description;
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    if (code === undefined) throw error;
    return fail({ place: folder, message: `cannot be read (${code})` });
  }
}

/** Every part under a folder, by id. Parts that cannot be used are left out and reported. */
export function readAllDevices(folder: string): { devices: Map<string, Device>; problems: Problem[] } {
  const devices = new Map<string, Device>();
  const problems: Problem[] = [];
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (!entry.isDirectory()) continue;
    const device = readDeviceFolder(join(folder, entry.name));
    if (device.ok) devices.set(device.value.description.id, device.value);
    else problems.push(...device.problems);
  }
  return { devices, problems };
}
