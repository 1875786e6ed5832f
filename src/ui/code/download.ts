import { strToU8, zipSync } from 'fflate';

/** Hands files over as a zip archive, in a folder of that name. Equal files give equal archives: the date is a fixed one. */
export function downloadFiles(folder: string, files: readonly { path: string; text: string }[]): void {
  const mtime = new Date('2026-01-01T00:00:00');
  const entries = Object.fromEntries(
    files.map((one) => [`${folder}/${one.path}`, [strToU8(one.text), { mtime }] as const]),
  );
  const archive = zipSync(entries as never);
  save(`${folder}.zip`, new Blob([archive as BlobPart], { type: 'application/zip' }));
}

/** Hands one text over as a file. */
export const downloadText = (name: string, text: string): void =>
  save(name, new Blob([text], { type: 'text/plain' }));

function save(name: string, content: Blob): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
