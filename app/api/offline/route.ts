import { readFile, readdir } from 'node:fs/promises';
import { join, sep } from 'node:path';

const BUILD = join(process.cwd(), '.next');

export const dynamic = 'force-dynamic';

/** What this build is made of, for keeping it in the browser: `{ build, files }`, addresses of this server. */
export async function GET(): Promise<Response> {
  const build = (await readFile(join(BUILD, 'BUILD_ID'), 'utf8')).trim();
  const entries = await readdir(join(BUILD, 'static'), { recursive: true, withFileTypes: true });
  const files = entries
    .filter((e) => e.isFile())
    .map((e) =>
      `${e.parentPath}/${e.name}`
        .slice(BUILD.length + 1)
        .split(sep)
        .map(encodeURIComponent)
        .join('/'),
    )
    .sort();
  return Response.json({ build, files: files.map((f) => `/_next/${f}`) }, { headers: { 'cache-control': 'no-store' } });
}
