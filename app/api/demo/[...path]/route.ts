import { readFile, readdir, realpath } from 'node:fs/promises';
import { join, normalize, sep } from 'node:path';

const ROOT = join(process.cwd(), 'demo');
const TYPES: Record<string, string> = {
  json: 'application/json',
  jpg: 'image/jpeg',
  png: 'image/png',
  glb: 'model/gltf-binary',
  exr: 'image/x-exr',
  lesson: 'application/octet-stream',
};

/** Serves the demo film: GET /api/demo/shots and /api/demo/media/FOLDER list files, anything below them is a file. */
export async function GET(_: Request, { params }: { params: Promise<{ path: string[] }> }): Promise<Response> {
  const { path } = await params;
  const file = normalize(join(ROOT, ...path));
  const inside = (path: string, root: string): boolean =>
    ['shots', 'media'].some((d) => path === join(root, d) || path.startsWith(join(root, d) + sep));
  // A link must not lead out of the film, either.
  const real = await realpath(file).catch(() => '');
  if (!inside(file, ROOT) || !inside(real, await realpath(ROOT).catch(() => ROOT)))
    return new Response('There is no such file in the demo film.', { status: 404 });
  try {
    const type = TYPES[file.split('.').pop() ?? ''];
    if (!type) return Response.json((await readdir(file)).sort());
    return new Response(new Uint8Array(await readFile(file)), { headers: { 'content-type': type } });
  } catch {
    return new Response('There is no such file in the demo film.', { status: 404 });
  }
}
