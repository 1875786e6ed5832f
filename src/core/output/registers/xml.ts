import { escapeXml } from '../../base/text/escape-xml';
import type { RegisterFile } from '../../description/register-file';

/** An element with a text. */
export const tag = (name: string, text: string): string => `<${name}>${escapeXml(text)}</${name}>`;

/** What neither XML form has elements for. */
function notInXml({ peripherals }: RegisterFile): string[] {
  const fields = peripherals.flatMap(({ registers }) => registers.flatMap((register) => register.fields));
  return [
    ...(fields.some(({ enabledBy }) => enabledBy) ? ['bits that let writes through'] : []),
    ...(fields.some(({ pulse }) => pulse) ? ['bits that are back at 0 at once'] : []),
    ...(fields.some(({ hardware }) => hardware) ? ['bits that the hardware changes'] : []),
  ];
}

/** What the file does not say, as a comment at its head; two hyphens would end it. */
export function notCarriedComment(file: RegisterFile, more: readonly string[] = []): string[] {
  const lines = [...(file.notCarried ?? []), ...notInXml(file), ...more];
  if (lines.length === 0) return [];
  const harmless = (line: string): string => line.replace(/-(?=-)/g, '- ').replace(/-$/, '- ');
  return ['<!-- Not said here, only in descriptions:', ...lines.map((line) => `  ${harmless(line)}`), '-->'];
}
