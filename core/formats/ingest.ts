import type { Kernels, Plane } from '@/kernels';
import { decodeTable, matricesOf } from '../colour/spaces';
import type { Planes3 } from '../colour/convert';
import { toWorking, turn } from '../colour/convert';
import { LUMA } from '../colour/transfer';
import type { AlphaKind, ColourSpace } from '../document/types';
import { boxReduced, enlargedRect, reducedRect, repeatEdges } from '../filters/reduce';
import type { Rect } from '../geometry/rect';
import { area, width } from '../geometry/rect';
import { isData, keepsValues } from '../layers';
import type { Picture } from '../picture';
import { COLOUR, formatRect, layersOf, scaleFormat } from '../picture';
import type { CodePicture } from './codes';

/** Code values to scene-linear planes, alpha as it stands in the file. */
export function planesFromCodes(p: CodePicture, space: ColourSpace, kernels: Kernels): Picture {
  const n = p.width * p.height;
  const bytes = kernels.bytes(p.data.byteLength);
  bytes.set(new Uint8Array(p.data.buffer, p.data.byteOffset, p.data.byteLength));
  const size = p.bits === 8 ? 1 : 2;
  const lookup = p.bits === 8 ? kernels.fn.lookup8 : kernels.fn.lookup16;
  const curve = kernels.copy(decodeTable(space, p.bits));
  const even = kernels.copy(decodeTable('linear', p.bits));
  const planes: Record<string, Plane> = {};
  const read = (channel: string, index: number, table: Plane): void => {
    planes[channel] = kernels.take(n);
    lookup(bytes.byteOffset + index * size, planes[channel].byteOffset, n, p.channels, table.byteOffset);
  };
  COLOUR.forEach((c, i) => read(c, p.channels >= 3 ? i : 0, curve));
  if (p.channels % 2 === 0) read('A', p.channels - 1, even);
  [bytes, curve, even].forEach((b) => kernels.give(b));
  turn([planes.R!, planes.G!, planes.B!], matricesOf(space)?.toWorking, kernels);
  const format = { width: p.width, height: p.height, pixelAspect: 1 };
  return { format, bounds: formatRect(format), channels: Object.keys(planes), planes };
}

/** The colour channels of each layer that has all three and holds light. */
const triplesOf = (channels: readonly string[]): string[][] =>
  layersOf(channels)
    .map((layer) => COLOUR.map((c) => (layer ? `${layer}.${c}` : c)))
    .filter((t) => t.every((c) => channels.includes(c)) && !isData(t[0]!));

/** Channels that must be decoded for some to be had in a space: a change of primaries needs all three of a layer. */
export function channelsForSpace(wanted: Iterable<string>, all: readonly string[], space: ColourSpace): Set<string> {
  const needed = new Set(wanted);
  if (matricesOf(space)) for (const t of triplesOf(all)) if (t.some((c) => needed.has(c))) t.forEach((c) => needed.add(c));
  return needed;
}

/** Values of floating-point files, colour channels of all layers, to linear Rec.709. Changes the picture's planes. */
export function settleColour(picture: Picture, space: ColourSpace, kernels: Kernels): Picture {
  for (const t of triplesOf(Object.keys(picture.planes))) toWorking(t.map((c) => picture.planes[c]!) as unknown as Planes3, space, kernels);
  return picture;
}

/** Makes alpha what the pipeline expects: premultiplied, and there. Changes the picture's planes. */
export function settleAlpha(picture: Picture, alpha: AlphaKind, kernels: Kernels): Picture {
  const { planes } = picture;
  const n = area(picture.bounds);
  if (alpha === 'luma') planes.A ??= kernels.take(n);
  if (!planes.A || alpha === 'ignore') {
    planes.A ??= kernels.take(n);
    planes.A.fill(1);
  } else if (alpha === 'luma') {
    planes.A.fill(0);
    COLOUR.forEach((c, i) => {
      const p = planes[c];
      if (p) kernels.fn.addScaled(planes.A!.byteOffset, p.byteOffset, planes.A!.byteOffset, n, LUMA[i]!);
    });
    kernels.fn.clampPlane(planes.A.byteOffset, planes.A.byteOffset, n, 0, 1);
  } else if (alpha === 'straight') {
    for (const c of COLOUR) {
      const p = planes[c];
      if (p) kernels.fn.multiply(p.byteOffset, planes.A.byteOffset, p.byteOffset, n);
    }
  }
  return { ...picture, channels: Object.keys(planes) };
}

/** The picture at ½ or ¼: each pixel the mean of its block, or of ids its middle. Gives the old planes back. */
export function reducePicture(picture: Picture, scale: number, kernels: Kernels): Picture {
  if (scale === 1) return picture;
  const factor = Math.round(1 / scale);
  const { bounds: b } = picture;
  const to = reducedRect(b, factor);
  const planes: Record<string, Plane> = {};
  for (const [c, plane] of Object.entries(picture.planes)) {
    planes[c] = keepsValues(c) ? pickMiddle(kernels, plane, b, factor) : boxReduced(kernels, plane, b, factor);
    kernels.give(plane);
  }
  return { format: scaleFormat(picture.format, scale), bounds: to, channels: picture.channels, planes };
}

function pickMiddle(kernels: Kernels, plane: Plane, have: Rect, factor: number): Plane {
  const small = reducedRect(have, factor);
  const from = repeatEdges(kernels, plane, have, enlargedRect(small, factor));
  const to = kernels.take(area(small));
  const w = width(small);
  const middle = factor >> 1;
  for (let i = 0; i < to.length; i++) {
    const [x, y] = [i % w, Math.floor(i / w)];
    to[i] = from[(y * factor + middle) * w * factor + x * factor + middle]!;
  }
  if (from !== plane) kernels.give(from);
  return to;
}
