import { readdirSync, readFileSync } from 'node:fs';
import { compileDevice } from '@/core/device/compile/compile';
import type { Device } from '@/core/device/device';
import { parsePlan } from '@/core/plan/file/plan-file';
import type { Plan } from '@/core/plan/model/types';
import { describeDeviceFolder } from '@/files/devices';
import { expectOk } from './expect-ok';

const read = new Map<string, Device>();

/**
 * A shipped part by its folder's name, read once a test file. It is only compiled: that the shipped parts pass all checks of
 * loading is for `families.test.ts` to show, once and not in each file.
 */
export function family(folder: string): Device {
  let device = read.get(folder);
  if (!device) {
    device = expectOk(compileDevice(expectOk(describeDeviceFolder(`devices/${folder}`))));
    read.set(folder, device);
  }
  return device;
}

export const FAMILIES: readonly string[] = readdirSync('devices').sort();

/** The family's small example plan. */
export const familyPlan = (device: Device): Plan => {
  const name = `${device.description.id}.plan.json`;
  return expectOk(parsePlan(name, readFileSync(`examples/families/${name}`, 'utf8')));
};

/** The values of `docs/worked-images.md`, by part and register. */
export function workedImages(): Map<string, { register: string; address: number; value: number }[]> {
  const images = new Map<string, { register: string; address: number; value: number }[]>();
  let current: { register: string; address: number; value: number }[] = [];
  for (const line of readFileSync('docs/worked-images.md', 'utf8').split('\n')) {
    const title = /^## (\S+)$/.exec(line);
    if (title?.[1]) {
      current = [];
      images.set(title[1], current);
    }
    const row = /^\| (\S+) \| (0x[0-9A-F]+) \| (0x[0-9A-F]+) \|/.exec(line);
    if (row?.[1]) current.push({ register: row[1], address: Number(row[2]), value: Number(row[3]) });
  }
  return images;
}
