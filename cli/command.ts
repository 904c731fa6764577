import { MediaError, ShotError, messageOf } from '@/core/errors';
import { UsageError } from './arguments';
import { exportThing } from './camera';
import { convert } from './convert';
import { inspect } from './inspect';
import { learn } from './learn';
import { read } from './read';
import { render } from './render';
import { steps } from './steps';

const USAGE = `ostracon inspect FILE... [--json]
ostracon convert IN OUT [--layer L] [--from SPACE] [--frames A-B [--beyond]] [--step N] [--start N] [HOW]
ostracon render SHOT.json|BUNDLE [--lane NAME] [--frames A-B [--beyond]] [--scale 1|0.5|0.25] [--workers N] --out 'DIR/name.####.exr' [HOW]
ostracon read point 'SEQ.####.png' --at X,Y --frame R [--pattern W,H] [--search W,H] [--model shift|similarity|affine]
    [--renew never|every|guarded] [--frames A-B] [--channel luma|red|green|blue|saturation|alpha] [--json]
ostracon read plane 'SEQ.####.png' --region x1,y1,x2,y2,... --frame R [--model shift|similarity|affine|perspective] [--matte 'SEQ']
    [--frames A-B] [--channel C] [--json]
ostracon read lens 'CHART.##.jpg'|FILE... [--pattern checker|grid] [--model radial2|radial3|brown|rational|division|fisheye|anamorphic|auto]
    [--mm MM --sensor MM] [--squeeze N] [--json]
ostracon read camera 'SEQ.####.jpg' [--lens LENS.json] [--focal MM --sensor MM] [--tracks TRACKS.csv [--hand-only]] [--exclude 'MATTE.####.png']
    [--count N] [--frames A-B] [--json]
ostracon export camera SHOT.json|BUNDLE [--reading NAME] --out CAM.glb|CAM.usda
ostracon export camera 'SEQ.####.jpg' [as read camera] [--fps N] --out CAM.glb|CAM.usda
ostracon convert IN OUT --lens LENS.json --straighten|--bend [--size same|grown|fitted] [--filter nearest|bilinear|mitchell|catmullRom|lanczos3]
ostracon convert --lens LENS.json --straighten|--bend --st-map OUT.exr [--size S]
ostracon learn train SHOT.json|BUNDLE [--lesson NAME] [--minutes N] [--from OTHER.lesson] [--workers 1|2] [--out NAME.lesson]
ostracon steps [--json]
HOW, by the ending of what is written: [--to SPACE] [--bits 8|10|16|32] [--half|--float] [--quality 1-100] [--compression C]`;

const COMMANDS: Record<string, (args: string[]) => Promise<void>> = { inspect, convert, render, read, steps, learn, export: exportThing };

/** Does what the arguments ask for. Throws what `refusal` puts into words. */
export async function runCommand([name, ...args]: readonly string[]): Promise<void> {
  const command = name === undefined ? undefined : COMMANDS[name];
  if (!command) throw new UsageError(name ? `there is no command "${name}"` : 'a command is needed');
  await command(args);
}

/** Why a command was not done: its exit status, 2 where it was asked for wrongly, and what is told. */
export function refusal(e: unknown): { status: number; err: string } {
  if (e instanceof UsageError) return { status: 2, err: `${e.message}\n${USAGE}\n` };
  const known = e instanceof MediaError || e instanceof ShotError;
  return { status: 1, err: `${known ? '' : 'unexpected: '}${messageOf(e)}\n` };
}
