'use client';
import { useShotPart } from '../workbench/context';
import { useView } from '../workbench/state';
import { viewOf } from './kinds';

/** What the selected reading has to show by frame. */
export function ReadingCharts() {
  const readings = useShotPart('readings');
  const selection = useView((s) => s.selection);
  const reading = readings.find((r) => selection?.kind === 'reading' && r.id === selection.id) ?? readings[0];
  if (!reading) return <div className="empty">Nothing is measured yet.</div>;
  const { Charts } = viewOf(reading);
  return <Charts reading={reading} />;
}
