import type { Device } from '@/core/recipe/device';
import { devicesFolder, readAllDevices } from '@/files/devices';
import { log } from './log';

const shared = globalThis as typeof globalThis & { mavrekDevices?: Map<string, Device> };

/** The parts in `devices/`, read once a process. */
export function allDevices(): Map<string, Device> {
  if (!shared.mavrekDevices) {
    const { devices, problems } = readAllDevices(devicesFolder());
    for (const problem of problems) log.error(problem, 'part left out');
    shared.mavrekDevices = devices;
  }
  return shared.mavrekDevices;
}

export const deviceById = (id: string): Device | undefined => allDevices().get(id);

/** What one chooses a part from. */
export const deviceChoices = () =>
  [...allDevices().values()].map(({ description, fingerprint }) => ({
    id: description.id,
    name: description.name,
    summary: description.summary,
    fingerprint,
    packages: description.packages.map(({ id, name, shape }) => ({ id, name, shape })),
  }));
