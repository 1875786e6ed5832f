import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

/** Scripts that the plan page loads before it can be used, by the manifests of the newest build. Undefined without a build. */
export function planPageScripts(): { file: string; bytes: number; compressed: number }[] | undefined {
  const build = readdirSync('.')
    .filter((name) => /^\.next-[0-9a-f]+$/.test(name))
    .sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs)[0];
  if (build === undefined) return undefined;
  const page = join(build, 'server/app/plans/[id]');
  const manifest = JSON.parse(readFileSync(join(page, 'page/build-manifest.json'), 'utf8')) as {
    rootMainFiles: string[];
  };
  const loadable = JSON.parse(
    readFileSync(join(page, 'page/react-loadable-manifest.json'), 'utf8'),
  ) as Record<string, { files: string[] }>;
  const references = readFileSync(join(page, 'page_client-reference-manifest.js'), 'utf8');
  const entries = /"entryJSFiles":(\{.*?\})(,"|\})/.exec(references)?.[1] ?? '{}';
  const entryFiles = Object.values(JSON.parse(entries) as Record<string, string[]>).flat();
  const dynamic = Object.values(loadable).flatMap((one) => one.files);
  const files = [...new Set([...manifest.rootMainFiles, ...entryFiles, ...dynamic])].filter((file) =>
    file.endsWith('.js'),
  );
  return files.map((file) => {
    const text = readFileSync(join(build, file));
    return { file, bytes: text.length, compressed: gzipSync(text).length };
  });
}
