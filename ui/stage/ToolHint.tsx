'use client';
import { BRUSH_WORDS } from '../paint/brushing';
import type { ViewState } from '../workbench/state';
import { useView } from '../workbench/state';

/** What the tool in hand waits for, at the top of the picture. */
export function ToolHint({ text }: { text: string }) {
  return (
    <div className="tool-hint" role="status" data-testid="tool-hint">
      {text}
    </div>
  );
}

const PICKS = {
  id: 'Click things, or drag over them; a picked one is dropped · Esc ends',
  focus: 'Click what shall be in focus · Esc ends',
  lamp: 'Click a surface: the lamp stands in front of it · Esc ends',
  place: 'Click the place in the scene · Esc ends',
  thing: 'Click a point, a surface or the ground: it stands there · Esc ends',
} as const;

/** The words for what is picked, probed, placed or brushed; drawing a reading says its own. */
function wordsFor({ picking, probing, probe, areaing, placing, brushing, brush, drawing }: ViewState): string | null {
  if (picking?.data) return PICKS[picking.data];
  if (picking?.of) return `Click or drag a box on the ${picking.of}; each adds a sample · Esc ends`;
  if (picking) return 'Click the colour, or drag a box for its mean · Esc ends';
  if (placing) return 'Click where the note points · Esc ends';
  if (areaing) return 'Drag the area to work out; a click gives the whole frame back · Esc ends';
  if (probing && !probe) return 'Drag a box for its figures; a click takes one pixel · Esc ends';
  if (brushing) {
    const alt = brush.tool === 'clone' || brush.tool === 'heal' ? 'Alt-click says from where' : 'Alt-click takes a colour';
    return `${BRUSH_WORDS[brush.tool][0]}: drag; Shift-drag sizes the brush, ${alt} · Esc ends`;
  }
  if (drawing?.kind === 'suggest') return 'Drag a box to find details in; a click looks around it · Esc ends';
  return null;
}

/** Says on the stage what the tool in hand waits for. */
export function ToolHints() {
  const text = useView(wordsFor);
  return text && <ToolHint text={text} />;
}
