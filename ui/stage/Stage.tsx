'use client';
import { useCallback, useEffect, useLayoutEffect, useRef, useState } from 'react';
import Button from '@mui/material/Button';
import { messageOf } from '@/core/errors';
import { rect } from '@/core/geometry';
import { boxStatistics } from '@/core/scopes';
import { NotePins } from '../notes/NotePins';
import { useShot, tapName } from '../workbench/context';
import { useView, view } from '../workbench/state';
import { usePicture, useSeen } from '../workbench/use-picture';
import { setCompare, useBacking, useOther } from './compare';
import { DrawReading } from '../readings/DrawReading';
import { PatternView } from '../readings/PatternView';
import { ReadingOverlay } from '../readings/ReadingOverlay';
import { useHeldStill } from '../readings/held';
import { AreaBox } from './AreaBox';
import { BrushOverlay } from '../paint/BrushOverlay';
import { DragBox } from './DragBox';
import { Filmstrip } from './Filmstrip';
import { Guides } from './Guides';
import type { Look } from './look';
import { DataPick } from '../passes/DataPick';
import { RoomView } from '../space/things/RoomView';
import { ThingPick } from '../space/things/ThingPick';
import { Shares } from '../passes/Shares';
import { Handles } from './handles/Handles';
import { usePan, useWheelZoom } from './navigate';
import { placeOf } from './place';
import { useOnStage } from './on-stage';
import { PictureBar } from './PictureBar';
import { AuditCounts, Probe } from './Probe';
import { PickBox } from './PickBox';
import { useViewLut } from './view-lut';
import { WorkerDrawing } from './worker-drawing';
import { ToolHints } from './ToolHint';
import { WipeHandle } from './WipeHandle';

/** Where the picture is seen: pan with the middle button or Space, zoom at the pointer. */
export function Stage() {
  const shot = useShot();
  const picture = usePicture();
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawing = useRef<WorkerDrawing | null>(null);
  /** What is on the canvas is what is asked for where there is a picture, none is waited for and no drawing is under way. */
  const now = useRef({ shown: false, pending: true, drawing: false });
  const sayDrawn = useCallback(() => {
    const { shown, pending, drawing: busy } = now.current;
    canvas.current?.setAttribute('data-drawn', shown && !pending && !busy ? 'yes' : 'no');
  }, []);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [failed, setFailed] = useState<string | null>(null);
  const [at, setAt] = useState<[number, number] | null>(null);
  const v = useView();
  const { zoom, centre, exposure, gamma, transform, channel, backing, frame, full, picking, compare, probe } = v;
  const { rendered, scale } = picture;
  const format = rendered ? { width: rendered.format.width / scale, height: rendered.format.height / scale } : shot.format;
  const lut = useViewLut(shot, transform);
  const ratio = typeof window === 'undefined' ? 1 : window.devicePixelRatio || 1;
  // Side by side each picture has half of the stage.
  const room = compare.mode === 'side' ? { ...size, width: size.width / 2 } : size;
  const free = placeOf(room, format, zoom, centre);
  const still = useHeldStill();
  const place = still ? { ...free, x: free.x + still[0] * free.zoom, y: free.y + still[1] * free.zoom } : free;
  const behind = useBacking(backing);
  const { other, flipped } = useOther(place, format, ratio);
  const shown = flipped?.rendered ?? rendered;
  const shownScale = flipped?.scale ?? scale;

  useLayoutEffect(() => {
    const element = box.current!;
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  useEffect(() => useOnStage.setState({ rendered: shown, scale: shownScale }), [shown, shownScale]);

  useLayoutEffect(() => {
    const c = canvas.current!;
    try {
      drawing.current ??= new WorkerDrawing(c);
    } catch (e) {
      setFailed(messageOf(e));
      return;
    }
    const [x, y, z] = [place.x * ratio, place.y * ratio, place.zoom * ratio];
    const look: Look = {
      x,
      y,
      zoom: z,
      exposure,
      gamma,
      transform,
      lut,
      channel,
      backing,
      surround: v.surround,
      other,
      backingColour: v.backingColour,
      behind,
    };
    const said = { frame: rendered ? String(picture.frame) : '', scale: String(scale) };
    now.current.drawing = true;
    sayDrawn();
    drawing.current.draw({
      width: Math.max(1, Math.round(size.width * ratio)),
      height: Math.max(1, Math.round(size.height * ratio)),
      rendered: shown,
      scale: shownScale,
      look,
      onDone: (problem) => {
        setFailed(problem);
        Object.assign(c.dataset, said);
        Object.assign(now.current, { drawing: false, shown: Boolean(shown && size.width) });
        sayDrawn();
        useOnStage.setState({ drawn: rendered ? picture.frame : null });
      },
    });
    // What is compared is made again with each drawing; what it is made of is listed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [
    shown,
    shownScale,
    size,
    place.x,
    place.y,
    place.zoom,
    exposure,
    gamma,
    transform,
    lut,
    channel,
    backing,
    v.backingColour,
    behind,
    v.surround,
    picture.frame,
    compare,
    other?.rendered,
  ]);

  // Comes after the drawing of what has just arrived was asked for.
  useLayoutEffect(() => {
    now.current.pending = picture.pending;
    sayDrawn();
  }, [picture.pending, sayDrawn]);

  useEffect(
    () => () => {
      // A canvas can be given to a worker once: while it stays on the page its worker stays, too.
      const [given, to] = [canvas.current, drawing.current];
      setTimeout(() => !given?.isConnected && to?.dispose());
    },
    [],
  );

  const toPicture = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = box.current!.getBoundingClientRect();
    return [(e.clientX - r.left - place.x) / place.zoom, (e.clientY - r.top - place.y) / place.zoom];
  };
  useWheelZoom(box, place, room, format);
  const pan = usePan(place, room, format);
  const { shot: seenIn, tap, looked } = useSeen();
  const name = tap ? `${looked ? 'source ' : ''}${tapName(seenIn, tap)}` : '';

  return (
    <div className={`stagebox${full ? ' full' : ''}`}>
      <PictureBar available={rendered?.available ?? []} zoom={place.zoom} />
      <div
        ref={box}
        className={`picture${pan.ready ? ' pan' : ''}${picking || v.probing || v.areaing ? ' pick' : ''}`}
        data-testid="stage"
        onPointerDown={pan.down}
        onPointerMove={(e) => {
          pan.move(e);
          setAt(toPicture(e));
        }}
        onPointerUp={pan.up}
        onPointerLeave={() => setAt(null)}
      >
        <canvas ref={canvas} aria-label={tap ? `Picture of ${name} at frame ${frame}` : 'No picture'} role="img" />
        {(v.guides || v.burnIn) && tap && (
          <Guides place={place} format={format} lines={v.guides} text={v.burnIn ? `${shot.name} · ${name} · ${frame}` : null} />
        )}
        {!picking && !v.brushing && !v.probing && !v.areaing && compare.mode !== 'flip' && <Handles place={place} />}
        {compare.mode === 'wipe' && other && <WipeHandle place={place} format={format} />}
        {(v.areaing || v.area) && <AreaBox place={place} toPicture={toPicture} />}
        {v.probing && (
          <DragBox
            place={place}
            testId="probe"
            toPicture={toPicture}
            shown={probe ? [...probe] : null}
            onBox={(b) => view.set({ probe: b })}
          />
        )}
        <ToolHints />
        <NotePins place={place} toPicture={toPicture} />
        {v.selection?.kind === 'reading' && !picking && !v.probing && <ReadingOverlay place={place} reading={v.selection.id} />}
        {v.drawing && <DrawReading place={place} drawing={v.drawing} toPicture={toPicture} />}
        {v.brushing && !picking && <BrushOverlay place={place} brushing={v.brushing} toPicture={toPicture} />}
        {picking && !picking.data && <PickBox place={place} picking={picking} toPicture={toPicture} />}
        {picking?.data === 'thing' && <ThingPick place={place} picking={picking} />}
        {picking?.data && picking.data !== 'thing' && <DataPick place={place} picking={picking} />}
        {v.roomView && <RoomView />}
        {picture.busy && <div className="busy" aria-label="Computing" />}
        {(failed ?? picture.error) && (
          <div className="stage-message">
            <div className="error" role="alert">
              {failed ?? picture.error}
            </div>
          </div>
        )}
        {!tap && <EmptyStage hasSources={shot.sources.length > 0} />}
        <div className="figure-column">
          {v.selection?.kind === 'reading' && !v.drawing && <PatternView reading={v.selection.id} />}
          {probe && shown && <Probe box={probe} rendered={shown} scale={shownScale} />}
          {probe && <Shares box={probe} />}
          {channel === 'audit' && shown && <AuditCounts />}
        </div>
        {!v.before && flipped && compare.base && compare.mode !== 'flip' && (
          <button
            className="before-flag"
            title="A version's picture as it was, in the place of what is seen; a click ends the comparison"
            onClick={() => setCompare({ mode: 'off' })}
          >
            {compare.base.label} ×
          </button>
        )}
        {v.before && <div className="before-flag">before</div>}
        {looked && !v.before && (
          <button
            className="before-flag"
            onClick={() => view.set({ selection: null })}
            title="A source as it was brought in: a click ends it"
          >
            {name} ×
          </button>
        )}
        {still && (
          <button className="before-flag" onClick={() => view.set({ held: null })} title="A way of looking: a click ends it">
            held still ×
          </button>
        )}
        {!v.before && v.solo.length > 0 && (
          <button
            className="before-flag"
            title="Joins of other lanes are passed by; a click brings them back"
            onClick={() => view.set({ solo: [] })}
          >
            solo:{' '}
            {shot.lanes
              .filter((l) => v.solo.includes(l.id))
              .map((l) => l.name)
              .join(', ')}{' '}
            ×
          </button>
        )}
        {tap && <Hud probe={at} picture={picture} name={name} wanted={frame} />}
      </div>
      {v.filmstrip && tap && <Filmstrip tap={tap} />}
    </div>
  );
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
  const x = probe ? Math.floor(probe[0] * scale) : -1;
  const y = probe ? Math.floor(probe[1] * scale) : -1;
  const v = probe && rendered ? boxStatistics(rendered, rect(x, y, x + 1, y + 1))?.mean : null;
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
