import type { StagePlace } from './place';

/** Shares of the frame that stay visible and readable on every display (SMPTE ST 2046-1). */
const AREAS = [
  { share: 0.93, name: 'action' },
  { share: 0.9, name: 'title' },
] as const;

interface Props {
  place: StagePlace;
  format: { width: number; height: number };
  lines: boolean;
  text: string | null;
}

/** Safe areas and the centre, and words burnt in: for looking only. */
export function Guides({ place, format, lines, text }: Props) {
  const [w, h] = [format.width * place.zoom, format.height * place.zoom];
  return (
    <svg className="overlay" width="100%" height="100%" aria-hidden>
      <g transform={`translate(${place.x} ${place.y})`} fill="none" stroke="rgb(233 227 216 / 45%)" strokeWidth={1}>
        {lines &&
          AREAS.map(({ share, name }) => (
            <rect key={name} x={(w * (1 - share)) / 2} y={(h * (1 - share)) / 2} width={w * share} height={h * share} />
          ))}
        {lines && <path d={`M${w / 2 - 9} ${h / 2}h18M${w / 2} ${h / 2 - 9}v18`} />}
        {text !== null && (
          <text x={10} y={20} fill="var(--bone)" stroke="none" className="mono">
            {text}
          </text>
        )}
      </g>
    </svg>
  );
}
