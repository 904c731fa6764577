import type { Rendered } from '@/engine';
import { CanvasDrawing } from './canvas-drawing';
import type { DrawMessage, DrawReply } from './worker-drawing';
import { GlDrawing } from './gl';
import type { Drawing, Look, OtherLook } from './look';

/** WebGL2 where the browser has it; the processor draws where it has not. */
function makeDrawing(canvas: OffscreenCanvas): Drawing {
  try {
    return new GlDrawing(canvas);
  } catch {
    return new CanvasDrawing(canvas);
  }
}

const reply = (answer: DrawReply): void => self.postMessage(answer);

let drawing: Drawing | null = null;
let canvas: OffscreenCanvas | null = null;
/** What was drawn last: drawn again when the browser gives back the graphics context that it took. */
let last: DrawMessage | null = null;
let lost = false;

/** The browser may take the graphics context at any time (another program wants the card, the driver is started again). */
function watchContext(of: OffscreenCanvas): void {
  of.addEventListener('webglcontextlost', (e) => {
    // Without this it would not come back.
    e.preventDefault();
    drawing = null;
    lost = true;
  });
  of.addEventListener('webglcontextrestored', () => {
    lost = false;
    if (last)
      self.onmessage?.(new MessageEvent('message', { data: { ...last, picture: 'same', other: 'same', behind: 'same', lut: 'same' } }));
  });
}
/** The picture, what it is compared with and what lies behind, as they came last: they are sent once. */
const pictures: [Rendered | null, Rendered | null, Rendered | null] = [null, null, null];
let lut: Look['lut'] = null;

function draw(message: DrawMessage): void {
  if (message.canvas) watchContext((canvas = message.canvas));
  last = { ...message };
  delete last.canvas;
  if (!canvas) throw new Error('the stage has no canvas yet');
  if (canvas.width !== message.width) canvas.width = message.width;
  if (canvas.height !== message.height) canvas.height = message.height;
  if (message.picture !== 'same') pictures[0] = message.picture;
  if (message.other !== 'same') pictures[1] = message.other;
  if (message.behind !== 'same') pictures[2] = message.behind;
  if (message.lut !== 'same') lut = message.lut;
  // Without a context there is nothing to draw with until it is given back.
  if (lost) return;
  drawing ??= makeDrawing(canvas);
  const { compare } = message;
  const other: OtherLook | null = compare && pictures[1] ? { ...compare, rendered: pictures[1] } : null;
  const behind = pictures[2] && { rendered: pictures[2], scale: message.behindScale };
  drawing.draw(pictures[0], message.scale, { ...message.look, lut, other, behind });
}

self.onmessage = ({ data }: MessageEvent<DrawMessage>): void => {
  try {
    draw(data);
    const { serial } = data;
    // The canvas is handed to the page at the end of a frame: the next drawing may begin in this one, and it is seen after it.
    requestAnimationFrame(() => {
      reply({ serial, error: null, seen: false });
      requestAnimationFrame(() => reply({ serial, error: null, seen: true }));
    });
  } catch (e) {
    reply({ serial: data.serial, error: e instanceof Error ? e.message : String(e), seen: true });
  }
};
