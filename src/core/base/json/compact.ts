/** JSON in which every value that fits stands on one line of at most `width` characters. */
export function compactJson(value: unknown, width: number, indent = ''): string {
  const line = flat(value);
  if (indent !== '' && indent.length + line.length <= width) return line;
  const deeper = `${indent}  `;
  if (Array.isArray(value) && value.length > 0)
    return `[\n${value.map((one) => `${deeper}${compactJson(one, width, deeper)}`).join(',\n')}\n${indent}]`;
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return line;
  const entries = Object.entries(value).map(
    ([key, item]) => `${deeper}${JSON.stringify(key)}: ${compactJson(item, width, deeper)}`,
  );
  return entries.length === 0 ? line : `{\n${entries.join(',\n')}\n${indent}}`;
}

function flat(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(flat).join(', ')}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value);
  const entries = Object.entries(value).map(([key, item]) => `${JSON.stringify(key)}: ${flat(item)}`);
  return entries.length === 0 ? '{}' : `{ ${entries.join(', ')} }`;
}
