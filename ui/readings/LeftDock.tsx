'use client';
import { Sources } from '../sources/Sources';
import { useView } from '../workbench/state';
import { Readings } from './Readings';

export function LeftDock() {
  const dock = useView((s) => s.dock);
  return dock === 'sources' ? <Sources /> : <Readings />;
}
