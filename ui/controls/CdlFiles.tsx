'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useRef, useState } from 'react';
import type { CdlKind } from '@/core/colour';
import { cdlOfGrade, formatCdl, gradeOfCdl, parseCdl } from '@/core/colour';
import type { Step, Value } from '@/core/document';
import { admit, resolveParam } from '@/core/document';
import { STEPS } from '@/core/steps';
import { setParams } from '@/core/commands';
import { saveBlob } from '../theme/save-blob';
import { toast, toastError } from '../theme/toast';
import { useRun, useShot } from '../workbench/context';
import { useView } from '../workbench/state';

/** A grade from a CDL file, and a CDL file of a grade at the current frame. */
export function CdlFiles({ step }: { step: Step }) {
  const shot = useShot();
  const run = useRun();
  const frame = useView((s) => s.frame);
  const input = useRef<HTMLInputElement>(null);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);

  const read = async (file: File): Promise<void> => {
    try {
      const [first, ...more] = parseCdl(await file.text(), file.name);
      run('Read CDL', setParams(step.id, { ...gradeOfCdl(first!) } as unknown as Record<string, Value>, frame));
      if (more.length) toast('info', `${file.name} holds ${more.length + 1} corrections; the first, "${first!.id}", was taken.`);
    } catch (e) {
      toastError(e);
    }
  };
  const write = (kind: CdlKind): void => {
    setAnchor(null);
    const values = Object.fromEntries(
      Object.entries(STEPS.get('grade')!.params).map(([name, d]) => [
        name,
        admit(d, resolveParam(shot, step.params[name], d.default, frame)),
      ]),
    ) as unknown as Parameters<typeof cdlOfGrade>[0];
    if (values.contrast !== 1) toast('warning', 'A CDL has no contrast: it was left out of the file.');
    saveBlob(new Blob([formatCdl(cdlOfGrade(values, step.name), kind)], { type: 'application/xml' }), `${step.name}.${kind}`);
  };

  return (
    <div style={{ display: 'flex', gap: 6, padding: '8px 12px 0' }}>
      <Button variant="outlined" onClick={() => input.current?.click()}>
        Read CDL
      </Button>
      <Button variant="outlined" onClick={(e) => setAnchor(e.currentTarget)}>
        Write CDL
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {(['cc', 'ccc', 'cdl'] as const).map((kind) => (
          <MenuItem key={kind} onClick={() => write(kind)}>
            .{kind}
          </MenuItem>
        ))}
      </Menu>
      <input
        ref={input}
        type="file"
        hidden
        accept=".cc,.ccc,.cdl"
        aria-label="CDL file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (file) void read(file);
        }}
      />
    </div>
  );
}
