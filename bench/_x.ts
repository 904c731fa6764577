import { WAVES, ghostsAt } from '@/core/light/ghosts';
for (const nm of WAVES)
  console.log(
    ghostsAt(nm)
      .sort((a, b) => b.strength - a.strength)
      .slice(0, 14)
      .map((g) => `${g.place.toFixed(2)} r${g.radius.toFixed(3)} ${g.strength.toExponential(1)}`)
      .join(' | '),
  );
