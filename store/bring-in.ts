import type { MediaFrame, Source } from '@/core/document';
import { fitName } from '@/core/document';
import { messageOf } from '@/core/errors';
import { roledPasses } from '@/core/passes';
import { idLayers, readManifest } from '@/core/formats';
import type { Inspected, WorkerPool } from '@/engine/browser';
import type { FoundSequence } from '@/engine';
import { READABLE, findSequences, joinPasses, rangesText, sourceOf } from '@/engine';
import { newId } from '@/core/commands';
import type { GivenFile } from './media';
import { bringingMedia, keepMedia, roomFor } from './media';

export interface BroughtIn {
  sources: Source[];
  /** Things to tell: gaps, frames of another size, files that could not be read. */
  warnings: string[];
  errors: string[];
}

export interface BringInOptions {
  /** Keeps handles of the files instead of copies, where the browser gave them. */
  link?: boolean;
  progress(done: number, of: number): void;
  signal: AbortSignal;
}

/** Files become sources: a numbered sequence one source, everything else one each. Keeps each file once, by its hash. Throws MediaError where there is no room. */
export const bringIn = (given: readonly GivenFile[], pool: WorkerPool, options: BringInOptions): Promise<BroughtIn> =>
  bringingMedia(() => bringInAll(given, pool, options));

async function bringInAll(given: readonly GivenFile[], pool: WorkerPool, options: BringInOptions): Promise<BroughtIn> {
  const { link = false, progress, signal } = options;
  const result: BroughtIn = { sources: [], warnings: [], errors: [] };
  const { files, problems, told } = await packModels(given);
  result.errors.push(...problems);
  result.warnings.push(...told);
  const known = files.filter(({ file }) => READABLE.test(file.name));
  const beside = files.filter(({ file }) => /\.json$/i.test(file.name));
  for (const g of files) {
    const named = known.includes(g) || beside.includes(g) || g.file.name.startsWith('.');
    if (!named) result.errors.push(`${g.file.name}: ${UNKNOWN}`);
  }
  const copied = known.filter((g) => !(link && g.handle));
  await roomFor(
    copied.reduce((sum, g) => sum + g.file.size, 0),
    copied.length === 1 ? copied[0]!.file.name : `${copied.length} files`,
  );
  let done = 0;
  for (const found of findSequences(known, (g) => g.path)) {
    const looked = await inspectAll(
      found,
      pool,
      signal,
      (message) => result.errors.push(message),
      async (g, { hash }) => {
        await keepMedia(hash, g, link);
        progress(++done, known.length);
      },
    );
    if (found.renumbered) result.warnings.push(`${found.name}: ${found.renumbered}`);
    const source = assemble(found, looked, result.warnings);
    if (source) result.sources.push(source);
  }
  result.sources = joinPasses(result.sources);
  await readManifests(result, beside);
  for (const [i, source] of result.sources.entries()) result.sources[i] = await withPasses(source, pool, signal);
  return result;
}

/** A render's source with what its passes are for; where that cannot be worked out, names say it. */
async function withPasses(source: Source, pool: WorkerPool, signal: AbortSignal): Promise<Source> {
  const first = source.frames?.[0];
  if (!first || source.kind === 'movie' || roledPasses(source.channels).length < 2) return source;
  try {
    return { ...source, passes: await pool.guessPasses(source, first.frame, signal) };
  } catch (e) {
    if (signal.aborted) throw e;
    return source;
  }
}

const UNKNOWN =
  'this kind of file is not known; PNG, JPEG, WebP, TIFF, OpenEXR, DPX, Radiance HDR, MP4, MOV, WebM, .cube, .glb, .gltf and .obj can be brought in';

/** Each .gltf with the files that it needs becomes one .glb; what lies beside an .obj for its looks is left. */
async function packModels(given: readonly GivenFile[]): Promise<{ files: GivenFile[]; problems: string[]; told: string[] }> {
  const files = given.filter(({ file }) => !/\.(bin|mtl)$/i.test(file.name));
  const problems: string[] = [];
  const told: string[] = [];
  const wanted = new Set<string>();
  const bytesOf = async (g: GivenFile): Promise<Uint8Array> => new Uint8Array(await g.file.arrayBuffer());
  for (const g of given.filter(({ file }) => /\.gltf$/i.test(file.name))) {
    const at = files.indexOf(g);
    try {
      // What reads it is loaded when there is something to read.
      const { besideOf, leftOut, packGltf } = await import('@/core/formats/gltf');
      const bytes = await bytesOf(g);
      const needed = besideOf(bytes, g.file.name);
      needed.forEach((n) => wanted.add(n));
      const found = given.filter(({ file }) => needed.includes(file.name));
      const beside = Object.fromEntries(await Promise.all(found.map(async (f) => [f.file.name, await bytesOf(f)] as const)));
      const packed = await packGltf(bytes, g.file.name, beside);
      // Packed, it does not say so any more.
      told.push(...leftOut(bytes, g.file.name).map((t) => `${g.file.name}: ${t}`));
      const name = g.file.name.replace(/\.gltf$/i, '.glb');
      files[at] = { file: new File([packed.bytes as BlobPart], name), path: g.path.replace(/\.gltf$/i, '.glb') };
      // Its textures are no pictures of the shot.
      for (const f of found) if (files.includes(f)) files.splice(files.indexOf(f), 1);
    } catch (e) {
      problems.push(messageOf(e));
      files.splice(files.indexOf(g), 1);
    }
  }
  for (const { file } of given)
    if (/\.bin$/i.test(file.name) && !wanted.has(file.name))
      problems.push(`${file.name}: no .gltf among these files needs it; bring both in together`);
  return { files, problems, told };
}

/** Names of ID mattes that lie in files beside the pictures. */
async function readManifests(result: BroughtIn, beside: readonly GivenFile[]): Promise<void> {
  const used = new Set<GivenFile>();
  for (const [i, source] of result.sources.entries()) {
    const named: [string, string][] = [];
    for (const ids of idLayers(Object.fromEntries(source.attributes ?? []), source.channels)) {
      const found = beside.find(({ file }) => ids.sidecar !== undefined && file.name === ids.sidecar.split('/').pop());
      if (!found) continue;
      used.add(found);
      try {
        const names = readManifest(await found.file.text(), found.file.name);
        const manifest = JSON.stringify(Object.fromEntries(Object.entries(names).map(([id, name]) => [name, id])));
        named.push([`${ids.key}manifest`, manifest]);
      } catch (e) {
        result.errors.push(messageOf(e));
      }
    }
    if (named.length) result.sources[i] = { ...source, attributes: [...(source.attributes ?? []), ...named] };
  }
  for (const g of beside) if (!used.has(g)) result.errors.push(`${g.file.name}: no picture among these files names it as its manifest`);
}

interface Looked {
  frame: number;
  name: string;
  inspected: Inspected;
}

/** Looks at the files of a sequence, as many at a time as there are workers, and hands each on. */
async function inspectAll(
  found: FoundSequence<GivenFile>,
  pool: WorkerPool,
  signal: AbortSignal,
  failed: (message: string) => void,
  take: (given: GivenFile, inspected: Inspected) => Promise<void>,
): Promise<Looked[]> {
  const looked: (Looked | undefined)[] = [];
  const queue = found.frames.map((f, index) => ({ ...f, index }));
  const work = async (): Promise<void> => {
    for (let next = queue.shift(); next; next = queue.shift()) {
      signal.throwIfAborted();
      const { frame, file: given, index } = next;
      try {
        const inspected = await pool.inspect(given.file, index === 0, signal);
        await take(given, inspected);
        looked[index] = { frame, name: given.file.name, inspected };
      } catch (e) {
        if (signal.aborted) throw e;
        failed(messageOf(e));
      }
    }
  };
  await Promise.all(Array.from({ length: pool.size }, work));
  return looked.filter((l) => l !== undefined);
}

/** A source of the files that were looked at; tells of gaps and frames of another size. */
function assemble(found: FoundSequence<GivenFile>, looked: readonly Looked[], warnings: string[]): Source | null {
  const first = looked[0];
  if (!first) return null;
  const { info, alphaDoubt } = first.inspected;
  const sizeOf = (l: Looked): string => `${l.inspected.info.format.width}×${l.inspected.info.format.height}`;
  const frames = looked.map((l): MediaFrame => {
    const { hash, info: own } = l.inspected;
    const odd = sizeOf(l) !== sizeOf(first);
    return {
      frame: l.frame,
      hash,
      name: l.name,
      ...(own.bounds && { bounds: own.bounds }),
      ...(odd && { size: [own.format.width, own.format.height] as const }),
    };
  });
  const odd = looked.filter((l) => sizeOf(l) !== sizeOf(first));
  if (odd.length) {
    const some = odd.slice(0, 3).map((l) => `${l.name} is ${sizeOf(l)}`);
    warnings.push(`${found.name}: ${some.join(', ')}; the others are ${sizeOf(first)}`);
  }
  if (found.gaps.length) {
    const [a, b] = [frames[0]!.frame, frames[frames.length - 1]!.frame];
    warnings.push(`${found.name}: frame ${rangesText(found.gaps)} is missing between ${a} and ${b}`);
  }
  if (alphaDoubt) warnings.push(`${found.name}: ${alphaDoubt}. Choose how to read its alpha in Sources.`);
  return { id: newId(), name: fitName(found.name), ...sourceOf(info, frames, found.still), ...(alphaDoubt && { alphaDoubt }) };
}
