import { expectOk } from '@/testing/expect-ok';
import { FAMILIES, family } from '@/testing/families';
import { hostileText } from '@/testing/hostile-text';
import { randomFrom } from '@/testing/random';
import {
  type FileField,
  type FileRegister,
  type RegisterFile,
  resetOfField,
} from '../description/register-file';
import { compileDevice } from '../device/compile/compile';
import type { Device } from '../device/device';
import { printIpXact, printIpXactFile } from '../output/registers/print-ipxact';
import { printRdl, printRdlFile } from '../output/registers/print-rdl';
import { printSvd } from '../output/registers/print-svd';
import { registerFileOf } from '../output/registers/register-file-of';
import { readFile } from './files/read-file';

/** A part's registers go out in each of the open standards, and come back the same, as far as the standard can say it. */
const read = (name: string, text: string): RegisterFile => {
  const file = expectOk(readFile(name, new TextEncoder().encode(text)));
  if (file.kind !== 'registers') throw new Error(`${name} was read as ${file.kind}`);
  return file.registers;
};

/** What is said of each field by address, wherever a format says it: of the register or of the field. */
function fieldsByAddress(
  file: RegisterFile,
  leave: (field: FileField, register: FileRegister) => Partial<FileField>,
) {
  return file.peripherals
    .flatMap(({ name, base, registers }) =>
      registers.map((register) => ({
        at: base + register.offset,
        name: `${name}.${register.name}`,
        description: register.description.replace(/\s+/g, ' ').trim(),
        bits: register.bits,
        fields: register.fields
          .map((field) => ({
            access: register.access,
            ...field,
            description: '',
            ...leave(field, register),
          }))
          .sort((a, b) => a.low - b.low),
        reset: register.fields.map((field) => resetOfField(register, field) ?? '?'),
      })),
    )
    .sort((a, b) => a.at - b.at || a.name.localeCompare(b.name));
}

const nothing = () => ({});
/** IP-XACT has no words for these. */
const ONLY_RDL = { pulse: undefined, hardware: undefined, enabledBy: undefined };
const onlyRdl = () => ONLY_RDL;

const shapes = (device: Device) => {
  const file = registerFileOf(device);
  return { file, rdl: read('x.rdl', printRdl(device)), ipxact: read('x.xml', printIpXact(device)) };
};

test.each(FAMILIES)('%s', (folder) => {
  const device = family(folder);
  const { file, rdl, ipxact } = shapes(device);
  expect(fieldsByAddress(rdl, nothing)).toEqual(fieldsByAddress(file, nothing));
  expect(rdl.endian).toBe(file.endian);
  expect(fieldsByAddress(ipxact, onlyRdl)).toEqual(fieldsByAddress(file, onlyRdl));
  // In SVD bits that only hold what is written have no field, and everything else is the same.
  const svd = read('x.svd', printSvd(device));
  const named = new Set(
    svd.peripherals.flatMap(({ name, registers }) =>
      registers.flatMap((register) =>
        register.fields.map((field) => `${name}.${register.name}.${field.name}`),
      ),
    ),
  );
  const inSvd: RegisterFile = {
    ...file,
    peripherals: file.peripherals.map((peripheral) => ({
      ...peripheral,
      registers: peripheral.registers.map((register) => ({
        ...register,
        fields: register.fields.filter((field) =>
          named.has(`${peripheral.name}.${register.name}.${field.name}`),
        ),
      })),
    })),
  };
  expect(fieldsByAddress(svd, onlyRdl)).toEqual(fieldsByAddress(inSvd, onlyRdl));
});

test('side effects, guards, pulses and other names go out, and come back', () => {
  const corvane = registerFileOf(family('corvane-c40'));
  const register = (file: RegisterFile, block: string, name: string) =>
    file.peripherals.find((each) => each.name === block)?.registers.find((each) => each.name === name);
  const set = corvane.peripherals
    .flatMap(({ registers }) => registers)
    .find(({ fields }) => fields[0]?.writes === 'oneToSet');
  expect(set?.aliasOf).toBeDefined();
  const back = read('x.rdl', printRdl(family('corvane-c40')));
  const [block] = corvane.peripherals.filter(({ registers }) =>
    registers.some(({ name }) => name === set?.name),
  );
  expect(register(back, block?.name ?? '', set?.name ?? '')).toMatchObject({
    aliasOf: set?.aliasOf,
    access: 'write-only',
    fields: [{ writes: 'oneToSet' }],
  });
  expect(corvane.notCarried?.join()).toMatch(/keys: /);
  const guarded = fieldsByAddress(back, nothing).flatMap(({ fields }) =>
    fields.filter(({ enabledBy }) => enabledBy),
  );
  expect(guarded.length).toBeGreaterThan(20);
});

/** All side effects that SystemRDL has words for, in every form. */
const EVERYTHING = `
enum speed_e { slow = 0; fast = 2 { desc = "20 MHz"; }; };
reg lock_r { field { sw = rw; hw = r; } open = 1; };
addrmap guard #(longint unsigned PORTS = 2) {
  desc = "frost \\"guard\\"";
  lock_r LOCK @0x10;
  regfile {
    reg { regwidth = 16;
      field { sw = rw; hw = w; onwrite = woclr; hwset; } up[1];
      field { sw = rw; onwrite = woset; } a[1]; field { onwrite = wot; } b[1]; field { onwrite = wzc; } c[1];
      field { onwrite = wzs; } d[1]; field { onwrite = wzt; } e[1]; field { onwrite = wclr; } f[1]; field { onwrite = wset; } g[1];
      field { sw = r; onread = rclr; hwclr; } h[1]; field { sw = r; rset; hw = rw; } i[1]; field { onread = ruser; } j[1];
    } ACTS;
    reg mode_r { regwidth = 16; field { encode = speed_e; desc = "how fast"; } speed[3:2] = speed_e::fast; field { sw = w; singlepulse; } go[0:0] = 0; };
    mode_r MODE;
    alias MODE mode_r AGAIN @0x20;
    reg { field { sw = rw1; } \\reg [7:0] = 8'hA5; field { sw = w1; } once[16:16] = 0; } FUSE @0x24;
    MODE.speed->swwel = FUSE.once;
  } P[PORTS] @0x100 += 0x40;
  P[0].ACTS.a->swwe = LOCK.open;
};
`;

test('SystemRDL with all its side effects is read, printed and read the same', () => {
  const file = read('x.rdl', EVERYTHING);
  expect(file.notCarried).toBeUndefined();
  expect(file.peripherals.map(({ name }) => name)).toEqual(['guard', 'P0', 'P1']);
  const [, port] = file.peripherals;
  const fieldsOf = (name: string) => port?.registers.find((register) => register.name === name)?.fields;
  expect(fieldsOf('ACTS')?.map(({ writes, reads, hardware }) => writes ?? reads ?? hardware)).toEqual([
    'oneToClear',
    'oneToSet',
    'oneToToggle',
    'zeroToClear',
    'zeroToSet',
    'zeroToToggle',
    'clear',
    'set',
    'clear',
    'set',
    'modify',
  ]);
  expect(fieldsOf('ACTS')?.[1]).toMatchObject({ enabledBy: { field: 'guard.LOCK.open', openAt: 1 } });
  expect(fieldsOf('MODE')?.find(({ name }) => name === 'speed')).toMatchObject({
    enabledBy: { field: 'P0.FUSE.once', openAt: 0 },
    values: [{ name: 'slow' }, { name: 'fast', description: '20 MHz', value: 2 }],
  });
  const plain = ({ peripherals, ...rest }: RegisterFile) => ({
    ...rest,
    peripherals: peripherals.map((peripheral) => ({
      ...peripheral,
      registers: peripheral.registers
        .map((register) => ({
          ...register,
          line: 0,
          fields: [...register.fields].sort((a, b) => a.low - b.low),
        }))
        .sort((a, b) => a.offset - b.offset || a.name.localeCompare(b.name)),
    })),
  });
  expect(plain(read('x.rdl', printRdlFile(file, 'guard')))).toEqual(plain(file));
  // By way of IP-XACT, all that it has words for.
  const ipxact = read('x.xml', printIpXactFile(file, 'orchard', '1'));
  const kept = ({ description }: FileField) => ({ ...ONLY_RDL, description });
  expect(fieldsByAddress(ipxact, kept)).toEqual(fieldsByAddress(file, kept));
});

test('values that may be written are kept by IP-XACT', () => {
  const file = read('x.rdl', EVERYTHING);
  for (const { registers } of file.peripherals)
    for (const { fields } of registers)
      for (const field of fields)
        field.allowed = field.values ? 'listed' : { from: 0, to: 2 ** field.bits - 1 };
  expect(fieldsByAddress(read('x.xml', printIpXactFile(file, 'orchard', '1')), onlyRdl)).toEqual(
    fieldsByAddress(file, onlyRdl),
  );
});

test('a text that attacks the files stays text in them', () => {
  const random = randomFrom(28);
  const { description } = family('pellin-p8');
  for (let turn = 0; turn < 12; turn++) {
    const text = () => hostileText(random) || 'x';
    const device = compileDevice({ ...description, name: text(), summary: text(), maker: text() });
    if (!device.ok) continue;
    const { file, rdl, ipxact } = shapes(device.value);
    expect(fieldsByAddress(rdl, nothing)).toEqual(fieldsByAddress(file, nothing));
    expect(fieldsByAddress(ipxact, onlyRdl)).toEqual(fieldsByAddress(file, onlyRdl));
  }
});
