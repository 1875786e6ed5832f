import type { RegisterForm } from '../../description/part-forms';
import type { Device } from '../../device/device';
import { printIpXact } from './print-ipxact';
import { printRdl } from './print-rdl';
import { printSvd } from './print-svd';

/** A part's registers in each of the open register standards. */
export const printRegisters: Readonly<Record<RegisterForm, (device: Device) => string>> = {
  svd: printSvd,
  systemrdl: printRdl,
  ipxact: printIpXact,
};
