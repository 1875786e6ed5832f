import { escapeXml } from '../../base/text/escape-xml';
import type { Derived } from '../../derive/derive';

const SIZE = 420;
const ROOM = 190;

/** The package seen from above, pin 1 at the top of the left edge, each pin with its pad and net. */
export function packageSvg(derived: Derived): string {
  const { pkg, plan, device } = derived;
  const { shape } = pkg;
  const nets = (pad: string): string => (derived.byPad.get(pad) ?? []).map((one) => one.net.name).join(' + ');
  const parts: string[] = [];
  const text = (x: number, y: number, content: string, more = ''): void => {
    parts.push(`<text x="${round(x)}" y="${round(y)}"${more}>${escapeXml(content)}</text>`);
  };
  if (shape.kind === 'ball-grid') {
    const pitch = 46;
    const width = shape.columns * pitch;
    const height = shape.rows.length * pitch;
    parts.push(`<rect x="24" y="44" width="${width}" height="${height}" fill="none" stroke="#22242a"/>`);
    for (const [index, row] of shape.rows.entries()) text(8, 44 + (index + 0.6) * pitch, row);
    for (let column = 1; column <= shape.columns; column++)
      text(24 + (column - 0.5) * pitch, 38, String(column), ' text-anchor="middle"');
    for (const [pin, pad] of Object.entries(pkg.pins)) {
      const row = shape.rows.indexOf(pin.replace(/\d+$/, ''));
      const column = Number(pin.replace(/^\D+/, ''));
      const x = 24 + (column - 0.5) * pitch;
      const y = 44 + (row + 0.5) * pitch;
      parts.push(
        `<circle cx="${round(x)}" cy="${round(y - 6)}" r="6" fill="${nets(pad) ? '#22242a' : 'none'}" stroke="#22242a"/>`,
      );
      text(x, y + 9, pad, ' text-anchor="middle" font-size="7"');
      text(x, y + 18, nets(pad).slice(0, 12), ' text-anchor="middle" font-size="6.5"');
    }
    return wrap(width + 48, height + 60, parts, `${plan.name} · ${device.description.name} · ${pkg.name}`);
  }
  const edges = shape.kind === 'quad' ? 4 : 2;
  const perSide = Math.ceil(shape.pins / edges);
  const pitch = Math.max(11, SIZE / perSide);
  const long = pitch * perSide + 16;
  const wide = shape.kind === 'quad' ? long : 150;
  parts.push(
    `<rect x="${ROOM}" y="${ROOM}" width="${round(wide)}" height="${round(long)}" fill="none" stroke="#22242a"/>`,
  );
  parts.push(`<circle cx="${ROOM + 24}" cy="${ROOM + 24}" r="3.5" fill="#22242a"/>`);
  for (const [pin, pad] of Object.entries(pkg.pins)) {
    const number = Number(pin) - 1;
    if (!Number.isInteger(number) || number < 0 || number >= shape.pins) continue;
    const edge = Math.floor(number / perSide);
    const along = 8 + ((number % perSide) + 0.5) * pitch;
    const used = nets(pad);
    const label = `${pad}${used ? `  ${used}` : ''}`;
    const place = edges === 2 && edge === 1 ? 2 : edge;
    const fill = used ? '#22242a' : 'none';
    const lead = (x: number, y: number, w: number, h: number): void => {
      parts.push(
        `<rect x="${round(x)}" y="${round(y)}" width="${w}" height="${h}" fill="${fill}" stroke="#22242a"/>`,
      );
    };
    switch (place) {
      case 0: {
        const y = ROOM + along;
        lead(ROOM - 12, y - 3, 12, 6);
        text(ROOM + 4, y + 3, pin, ' font-size="7"');
        text(ROOM - 16, y + 3, label, ' text-anchor="end"');
        break;
      }
      case 1: {
        const x = ROOM + along;
        lead(x - 3, ROOM + long, 6, 12);
        text(
          x + 3,
          ROOM + long - 4,
          pin,
          ` font-size="7" transform="rotate(-90 ${round(x + 3)} ${round(ROOM + long - 4)})"`,
        );
        text(
          x + 3,
          ROOM + long + 16,
          label,
          ` text-anchor="end" transform="rotate(-90 ${round(x + 3)} ${round(ROOM + long + 16)})"`,
        );
        break;
      }
      case 2: {
        const y = ROOM + long - along;
        lead(ROOM + wide, y - 3, 12, 6);
        text(ROOM + wide - 4, y + 3, pin, ' font-size="7" text-anchor="end"');
        text(ROOM + wide + 16, y + 3, label);
        break;
      }
      default: {
        const x = ROOM + wide - along;
        lead(x - 3, ROOM - 12, 6, 12);
        text(
          x + 3,
          ROOM + 4,
          pin,
          ` font-size="7" text-anchor="end" transform="rotate(-90 ${round(x + 3)} ${round(ROOM + 4)})"`,
        );
        text(x + 3, ROOM - 16, label, ` transform="rotate(-90 ${round(x + 3)} ${round(ROOM - 16)})"`);
      }
    }
  }
  return wrap(
    wide + 2 * ROOM,
    long + 2 * ROOM,
    parts,
    `${plan.name} · ${device.description.name} · ${pkg.name}`,
  );
}

const round = (value: number): number => Math.round(value * 10) / 10;

function wrap(width: number, height: number, parts: readonly string[], title: string): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" width="${round(width)}" height="${round(height)}" viewBox="0 0 ${round(width)} ${round(height)}" font-family="Arial Narrow, Arial, sans-serif" font-size="9">
<title>${escapeXml(title)}</title>
<rect width="100%" height="100%" fill="#ffffff"/>
<text x="12" y="18" font-size="12">${escapeXml(title)}</text>
${parts.join('\n')}
</svg>
`;
}
