'use client';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import Button from '@mui/material/Button';
import { useShot, seenTap, tapName } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { usePicture } from '../workbench/use-picture';
import { CanvasDrawing } from './canvas-drawing';
import { GlDrawing } from './gl';
import type { Drawing, Look } from './look';
import { Handles } from './handles/Handles';
import { PictureBar } from './PictureBar';
import { PickBox } from './PickBox';
import { useViewLut } from './view-lut';

export interface StagePlace {
  /** CSS pixels of the stage at which the picture's corner lies, and CSS pixels a full-size pixel. */
  x: number;
  y: number;
  zoom: number;
  width: number;
  height: number;
}

/** Where the picture is seen: pan with the middle button or Space, zoom at the pointer. */
export function Stage() {
  const shot = useShot();
  const picture = usePicture();
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawing = useRef<Drawing | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [failed, setFailed] = useState<string | null>(null);
  const [probe, setProbe] = useState<[number, number] | null>(null);
  const { zoom, centre, exposure, gamma, transform, channel, backing, seen, frame, full, picking } = useView();
  const { rendered, scale } = picture;
  const format = rendered ? { width: rendered.format.width / scale, height: rendered.format.height / scale } : shot.format;
  const lut = useViewLut(shot, transform);
  const place = placeOf(size, format, zoom, centre);

  useLayoutEffect(() => {
    const element = box.current!;
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => {
    const c = canvas.current!;
    const ratio = window.devicePixelRatio || 1;
    c.width = Math.max(1, Math.round(size.width * ratio));
    c.height = Math.max(1, Math.round(size.height * ratio));
    try {
      drawing.current ??= makeDrawing(c);
    } catch (e) {
      setFailed(e instanceof Error ? e.message : String(e));
      return;
    }
    const look: Look = {
      x: place.x * ratio,
      y: place.y * ratio,
      zoom: place.zoom * ratio,
      exposure,
      gamma,
      transform,
      lut,
      channel,
      backing,
    };
    drawing.current.draw(rendered, scale, look);
    c.dataset.frame = rendered ? String(picture.frame) : '';
    c.dataset.scale = String(scale);
  }, [rendered, scale, size, place.x, place.y, place.zoom, exposure, gamma, transform, lut, channel, backing, picture.frame]);

  const toPicture = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = box.current!.getBoundingClientRect();
    return [(e.clientX - r.left - place.x) / place.zoom, (e.clientY - r.top - place.y) / place.zoom];
  };
  useWheelZoom(box, place, size, format);
  const pan = usePan(place, size, format);
  const tap = seenTap(shot, seen);

  return (
    <div className={`stagebox${full ? ' full' : ''}`}>
      <PictureBar available={rendered?.available ?? []} zoom={place.zoom} />
      <div
        ref={box}
        className={`picture${pan.ready ? ' pan' : ''}${picking ? ' pick' : ''}`}
        data-testid="stage"
        onPointerDown={pan.down}
        onPointerMove={(e) => {
          pan.move(e);
          setProbe(toPicture(e));
        }}
        onPointerUp={pan.up}
        onPointerLeave={() => setProbe(null)}
      >
        <canvas ref={canvas} aria-label={tap ? `Picture of ${tapName(shot, tap)} at frame ${frame}` : 'No picture'} role="img" />
        {!picking && <Handles place={place} />}
        {picking && <PickBox place={place} picking={picking} toPicture={toPicture} />}
        {picture.busy && <div className="busy" aria-label="Computing" />}
        {(failed ?? picture.error) && (
          <div className="stage-message">
            <div className="error" role="alert">
              {failed ?? picture.error}
            </div>
          </div>
        )}
        {!tap && <EmptyStage hasSources={shot.sources.length > 0} />}
        {tap && <Hud probe={probe} picture={picture} name={tapName(shot, tap)} wanted={frame} />}
      </div>
    </div>
  );
}

/** WebGL2 where the browser has it; the processor draws where it has not. */
function makeDrawing(canvas: HTMLCanvasElement): Drawing {
  try {
    return new GlDrawing(canvas);
  } catch {
    return new CanvasDrawing(canvas);
  }
}

function EmptyStage({ hasSources }: { hasSources: boolean }) {
  return (
    <div className="stage-message">
      <div>
        {hasSources
          ? 'Drag a source from the left onto the lanes board below: the first lane becomes the result.'
          : 'Drop a folder of frames or some files anywhere on this page. A numbered sequence becomes one source.'}
        {!hasSources && (
          <div>
            <Button variant="outlined" sx={{ mt: 1 }} onClick={() => document.getElementById('choose-files')?.click()}>
              Choose files
            </Button>
          </div>
        )}
      </div>
    </div>
  );
}

function Hud({
  probe,
  picture,
  name,
  wanted,
}: {
  wanted: number;
  probe: [number, number] | null;
  picture: ReturnType<typeof usePicture>;
  name: string;
}) {
  const { rendered, scale } = picture;
  const w = rendered ? rendered.region.x1 : 0;
  const h = rendered ? rendered.region.y1 : 0;
  const x = probe ? Math.floor(probe[0] * scale) : -1;
  const y = probe ? Math.floor(probe[1] * scale) : -1;
  const inside = rendered && x >= 0 && y >= 0 && x < w && y < h;
  const v = inside ? rendered.pixels.subarray(4 * (y * w + x), 4 * (y * w + x) + 4) : null;
  const text = (n: number): string => (n < 0 ? '' : ' ') + n.toFixed(3);
  return (
    <div className="hud">
      <span>{name}</span>
      {scale !== 1 && <span>at {scale === 0.5 ? '½' : '¼'} size</span>}
      {rendered && <span>{Math.round(rendered.milliseconds)} ms</span>}
      {picture.frame !== null && picture.frame !== wanted && <span>frame {picture.frame} stands in</span>}
      {v && (
        <span className="right">
          x {Math.floor(probe![0])} y {Math.floor(probe![1])} {text(v[0]!)} {text(v[1]!)} {text(v[2]!)} A {text(v[3]!)}
        </span>
      )}
    </div>
  );
}

const MARGIN = 22;

function placeOf(
  size: { width: number; height: number },
  format: { width: number; height: number },
  zoom: number | 'fit',
  centre: readonly [number, number],
): StagePlace {
  const fit = Math.max(0.01, Math.min((size.width - 2 * MARGIN) / format.width, (size.height - 2 * MARGIN) / format.height));
  const z = zoom === 'fit' ? fit : zoom;
  const [cx, cy] = zoom === 'fit' ? [0, 0] : centre;
  return {
    x: Math.round(size.width / 2 - (format.width / 2 + cx) * z),
    y: Math.round(size.height / 2 - (format.height / 2 + cy) * z),
    zoom: z,
    ...size,
  };
}

type Size = { width: number; height: number };

/** The centre offset (picture pixels from the format's middle) that puts the picture's corner at x, y. */
const centreFor = (x: number, y: number, z: number, size: Size, format: Size): [number, number] => [
  (size.width / 2 - x) / z - format.width / 2,
  (size.height / 2 - y) / z - format.height / 2,
];

function useWheelZoom(box: React.RefObject<HTMLDivElement | null>, place: StagePlace, size: Size, format: Size): void {
  const latest = useRef({ place, size, format });
  useEffect(() => {
    latest.current = { place, size, format };
  });
  useEffect(() => {
    const element = box.current!;
    const wheel = (e: WheelEvent): void => {
      e.preventDefault();
      const { place: p, size: s, format: f } = latest.current;
      const r = element.getBoundingClientRect();
      const [mx, my] = [e.clientX - r.left, e.clientY - r.top];
      const z = Math.min(64, Math.max(0.05, p.zoom * Math.exp(-e.deltaY * 0.0015)));
      const [x, y] = [mx - ((mx - p.x) / p.zoom) * z, my - ((my - p.y) / p.zoom) * z];
      view.set({ zoom: z, centre: centreFor(x, y, z, s, f) });
    };
    element.addEventListener('wheel', wheel, { passive: false });
    return () => element.removeEventListener('wheel', wheel);
  }, [box]);
}

/** Space held down is looked after by the workbench's keys; they set this attribute. */
const spaceHeld = (): boolean => document.body.dataset.space === 'down';

function usePan(place: StagePlace, size: Size, format: Size) {
  const from = useRef<{ x: number; y: number; place: StagePlace } | null>(null);
  const [ready, setReady] = useState(false);
  return {
    ready,
    down: (e: React.PointerEvent): void => {
      if (e.button !== 1 && !(e.button === 0 && spaceHeld())) return;
      e.preventDefault();
      e.currentTarget.setPointerCapture(e.pointerId);
      from.current = { x: e.clientX, y: e.clientY, place };
      setReady(true);
    },
    move: (e: React.PointerEvent): void => {
      const f = from.current;
      if (!f) return;
      view.set({
        zoom: f.place.zoom,
        centre: centreFor(f.place.x + e.clientX - f.x, f.place.y + e.clientY - f.y, f.place.zoom, size, format),
      });
    },
    up: (): void => {
      if (!from.current) return;
      from.current = null;
      setReady(false);
      document.body.dataset.panned = 'yes';
    },
  };
}
