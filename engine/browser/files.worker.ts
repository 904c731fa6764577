import { expose } from 'comlink';
import type { Shot } from '@/core/document';
import type { SvgOutline } from '@/core/shape';
import { readSvg } from '@/core/shape';
import type { Bundle } from '../bundle';
import { readBundle } from '../bundle';
import { sha256OfFile } from './media-db';
import type { Answered } from './protocol';
import { answer } from './protocol';

/** What a bundle holds: its shot, and the names of its media by their hashes. */
export interface Checked {
  shot: Shot;
  media: [string, string][];
  bytes: number;
}

let opened: Bundle | null = null;

/** Reads bundles and drawings away from the page: what is damaged or made to do harm costs it nothing. */
const api = {
  check: (file: File): Promise<Answered<Checked>> =>
    answer(async () => {
      opened = await readBundle(file, file.name, sha256OfFile);
      const { shot, media, bytes } = opened;
      return { shot, media: [...media], bytes };
    }),
  /** The outlines of an SVG file. */
  outlines: (file: File): Promise<Answered<SvgOutline[]>> => answer(async () => readSvg(await file.text())),
  /** The media of the bundle that was checked last. */
  media: (hash: string): Promise<Answered<Blob>> => answer(() => opened!.file(hash)),
};

export type FilesWorker = typeof api;
expose(api);
