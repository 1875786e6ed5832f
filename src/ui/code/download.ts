import { strToU8, zipSync } from 'fflate';

/** Hands files over as a zip archive, in a folder of that name. Equal files give equal archives: the date is a fixed one. */
export function downloadFiles(folder: string, files: readonly { path: string; text: string }[]): void {
  const mtime = new Date('2026-01-01T00:00:00');
  const entries = Object.fromEntries(
    files.map((one) => [`${folder}/${one.path}`, [strToU8(one.text), { mtime }] as const]),
  );
  const archive = zipSync(entries as never);
  const url = URL.createObjectURL(new Blob([archive as BlobPart], { type: 'application/zip' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = `${folder}.zip`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
