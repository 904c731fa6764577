'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useState } from 'react';
import { addReadCamera } from '@/core/commands';
import { NumberField } from '../controls/NumberField';
import { toastError } from '../theme/toast';
import { seenTap, useRun, useShot } from '../workbench/context';
import { useView, view } from '../workbench/state';

/** A camera from another program: which frame its first moment is. */
export function CameraIn() {
  const file = useView((s) => s.incoming);
  return file && <Incoming key={file.name} file={file} />;
}

function Incoming({ file }: { file: File }) {
  const shot = useShot();
  const run = useRun();
  const [start, setStart] = useState(shot.range.first);
  const close = (): void => view.set({ incoming: null });
  const bring = async (): Promise<void> => {
    try {
      const bytes = new Uint8Array(await file.arrayBuffer());
      const { readCameraFile } = await import('@/core/space/exchange/camera-file');
      const { name, parts } = await readCameraFile(bytes, file.name, { fps: shot.frameRate, start, format: shot.format });
      const tap = seenTap(shot, view.get().seen);
      const made: { reading?: string } = {};
      if (tap && run('Bring in a camera', addReadCamera(tap, start, name, parts, made)))
        view.set({ selection: { kind: 'reading', id: made.reading! }, tracks: [] });
      close();
    } catch (e) {
      toastError(e);
      close();
    }
  };
  return (
    <Dialog open onClose={close}>
      <DialogTitle>Bring in the camera of {file.name}</DialogTitle>
      <DialogContent>
        <p className="dust">
          It is read at {shot.frameRate} frames a second, for pictures of {shot.format.width}×{shot.format.height}.
        </p>
        <label className="inline">
          Its first frame is{' '}
          <span style={{ width: 90 }}>
            <NumberField
              label="First frame of the camera"
              value={start}
              min={-1e6}
              max={1e6}
              whole
              step={1}
              onChange={setStart}
              onProblem={() => undefined}
            />
          </span>
        </label>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" onClick={() => void bring()}>
          Bring in
        </Button>
      </DialogActions>
    </Dialog>
  );
}
