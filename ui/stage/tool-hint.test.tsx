import { screen } from '@testing-library/react';
import { shotWith, showBench } from '../testing/bench';
import type { ViewState } from '../workbench/state';
import { view } from '../workbench/state';
import { ToolHints } from './ToolHint';

test.each<[string, Partial<ViewState>, RegExp]>([
  ['a colour picker', { picking: { step: 's', param: 'p' } }, /Click the colour/],
  ['a sample picker', { picking: { step: 's', param: 'p', of: 'screen' } }, /on the screen; each adds/],
  ['the probe', { probing: true }, /Drag a box for its figures/],
  ['the area', { areaing: true }, /Drag the area/],
  ['a pin of a note', { placing: 'n' }, /Click where the note points/],
  ['the suggestions', { drawing: { kind: 'suggest' } }, /find details in/],
])('%s says on the stage what it waits for', (_, change, words) => {
  showBench(shotWith(), <ToolHints />, change);
  expect(screen.getByTestId('tool-hint').textContent).toMatch(words);
});

test('without a tool in hand there is no hint', () => {
  showBench(shotWith(), <ToolHints />, {});
  expect(screen.queryByTestId('tool-hint')).toBeNull();
});

test('a source that is chosen is looked at until something else is to be seen', () => {
  view.reset(1);
  view.set({ selection: { kind: 'source', id: 'a' } });
  expect(view.get().looked).toBe('a');
  view.set({ frame: 3, exposure: 1 });
  expect(view.get().looked).toBe('a');
  for (const other of [
    { seen: { lane: 'l' } },
    { selection: null },
    { drawing: { kind: 'point' } },
    { solo: ['l'] },
  ] as Partial<ViewState>[]) {
    view.set({ selection: { kind: 'source', id: 'a' } });
    view.set(other);
    expect(view.get().looked).toBeNull();
  }
});
