'use client';
import { useRef } from 'react';
import type { Step } from '@/core/document';
import { messageOf } from '@/core/errors';
import type { Shape } from '@/core/shape';
import { openSvg } from '@/engine/browser';
import { addShapes, shapesIn } from '@/core/commands';
import { FileUploadIcon } from '@/ui/theme/icons';
import { toast } from '../theme/toast';
import { useRun } from '../workbench/context';
import { view } from '../workbench/state';
import { ShapeControls } from './ShapeControls';
import { ShapeRow } from './ShapeRow';
import type { ShapeTool } from './shaping';
import { shaping, takeTool, useShaping } from './shaping';

const TOOLS: readonly { tool: ShapeTool; title: string; help: string }[] = [
  { tool: 'pen', title: 'Pen', help: 'Click corners, drag curves; the first point closes' },
  { tool: 'free', title: 'By hand', help: 'Draw the outline in one go' },
  { tool: 'ellipse', title: 'Ellipse', help: 'Drag an ellipse' },
  { tool: 'box', title: 'Box', help: 'Drag a box' },
  { tool: 'push', title: 'Push', help: 'A soft brush that takes the points under it along' },
];

/** A step's shapes: the tools that draw them, their list, and what the one in hand is like. */
export function ShapesField({ step }: { step: Step }) {
  const run = useRun();
  const { tool, shape: chosen } = useShaping();
  const file = useRef<HTMLInputElement>(null);
  const list = shapesIn(step);
  const inHand = list.find((s) => s.id === chosen);

  const bringIn = async (files: FileList | null): Promise<void> => {
    const [one] = files ?? [];
    if (!one) return;
    try {
      const outlines = await openSvg(one);
      const ids: string[] = [];
      if (run('Bring in outlines', addShapes(step.id, outlines, view.get().frame, ids))) {
        shaping.choose(ids[0]!);
        toast('info', `${outlines.length === 1 ? 'One outline' : `${outlines.length} outlines`} of ${one.name}.`);
      }
    } catch (e) {
      toast('error', `${one.name}: ${messageOf(e)}`);
    }
  };

  return (
    <div className="shapes">
      <div className="inline">
        {TOOLS.map((t) => (
          <button
            key={t.tool}
            className={`pill${tool === t.tool ? ' on' : ''}`}
            aria-pressed={tool === t.tool}
            title={t.help}
            onClick={() => takeTool(t.tool, step)}
          >
            {t.title}
          </button>
        ))}
        <span className="grow" />
        <button
          className="pill"
          title="Bring in the outlines of an SVG file"
          aria-label="Bring in outlines"
          onClick={() => file.current?.click()}
        >
          <FileUploadIcon sx={{ fontSize: 14 }} />
          SVG
        </button>
        <input
          ref={file}
          type="file"
          accept=".svg,image/svg+xml"
          hidden
          data-testid="svg file"
          onChange={(e) => {
            void bringIn(e.target.files).finally(() => (e.target.value = ''));
          }}
        />
      </div>
      <div className="shape-list" role="list" aria-label="Shapes">
        {list.map((s: Shape, i) => (
          <ShapeRow key={s.id} step={step} shape={s} index={i} count={list.length} chosen={s.id === chosen} />
        ))}
      </div>
      {list.length === 0 && (
        <small className="dust">Nothing is drawn yet: take the pen, and click around what you want on the stage.</small>
      )}
      {inHand && <ShapeControls step={step} shape={inHand} />}
    </div>
  );
}
