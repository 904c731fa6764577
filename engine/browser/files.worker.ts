import type { Shot } from '@/core/document';
import type { SvgOutline } from '@/core/shape';
import { readSvg } from '@/core/shape';
import type { Bundle } from '../bundle';
import { readBundle } from '../bundle';
import { sha256OfFile } from './media-db';
import { serve } from './protocol';

/** What a bundle holds: its shot, and the names of its media by their hashes. */
export interface Checked {
  shot: Shot;
  media: [string, string][];
  bytes: number;
}

let opened: Bundle | null = null;

/** Reads bundles and drawings away from the page: what is damaged or made to do harm costs it nothing. */
const api = {
  check: async (file: File): Promise<Checked> => {
    opened = await readBundle(file, file.name, sha256OfFile);
    const { shot, media, bytes } = opened;
    return { shot, media: [...media], bytes };
  },
  /** The outlines of an SVG file. */
  outlines: async (file: File): Promise<SvgOutline[]> => readSvg(await file.text()),
  /** The media of the bundle that was checked last. */
  media: (hash: string): Promise<Blob> => opened!.file(hash),
};

export type FilesWorker = typeof api;
serve(api);
