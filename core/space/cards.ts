import { apply3, transpose3 } from '../geometry/rotation';
import type { Vec3 } from '../geometry/vec3';
import { along3, scale3, unit3 } from '../geometry/vec3';
import type { TestCard } from './camera-parts';
import type { CameraView } from './reading';

/** The axes of a card in the world: along its rows and down its columns. */
function axesOf(view: CameraView, card: TestCard, reference: number): readonly [Vec3, Vec3] {
  if (card.lies === 'ground')
    return [
      [1, 0, 0],
      [0, 0, 1],
    ];
  const pose = view.poseAt(view.has(reference) ? reference : view.frames[0]!)!;
  const back = transpose3(pose.turn);
  const right = apply3(back, [1, 0, 0]);
  const down = apply3(back, [0, 1, 0]);
  // Upright where the world's upright is near the camera's own, as it is once the ground has been laid.
  if (down[1] < 0.8) return [right, down];
  return [unit3([right[0], 0, right[2]]), [0, 1, 0]];
}

/** A place on a card, from −½ to ½ along its rows and down its columns; null where its track has no point. */
export function onCard(view: CameraView, card: TestCard, reference: number): ((u: number, v: number) => Vec3) | null {
  const at: Vec3 | null = card.track === '' ? [0, 0, 0] : view.point(card.track);
  if (!at || view.frames.length === 0) return null;
  const [across, down] = axesOf(view, card, reference);
  return (u, v) => along3(along3(at, scale3(across, u * card.size)), scale3(down, v * card.size));
}

/** Its corners: top left, top right, bottom right, bottom left. */
export function cardCorners(view: CameraView, card: TestCard, reference: number): readonly [Vec3, Vec3, Vec3, Vec3] | null {
  const place = onCard(view, card, reference);
  return place && [place(-0.5, -0.5), place(0.5, -0.5), place(0.5, 0.5), place(-0.5, 0.5)];
}
