import type { Row } from '../platform/database';

/** Orders the berths by how well the cargo fits, over many simulated hours of crane work. */
export function rankBerths(berths: Row[], manifests: Row[], rounds: number): number {
  let best = 0;
  let bestScore = -Infinity;
  for (const berth of berths) {
    const score = scoreBerth(berth, manifests, rounds);
    if (score > bestScore) {
      bestScore = score;
      best = Number(berth.id);
    }
  }
  return best;
}

function scoreBerth(berth: Row, manifests: Row[], rounds: number): number {
  let score = 0;
  for (let round = 0; round < rounds; round++) score += craneHours(berth, manifests, round);
  return score / Math.max(1, rounds);
}

/** Every round weighs all manifests anew: this is where the milliseconds go. */
function craneHours(berth: Row, manifests: Row[], round: number): number {
  let hours = 0;
  for (const manifest of manifests) {
    const swing = Math.sin(Number(manifest.tonnes) * 0.01 + round) * Math.cos(Number(berth.depth) + round);
    hours +=
      (Number(manifest.tonnes) / Number(berth.cranes)) * (1 + 0.1 * swing) + Number(manifest.hazard) * 2;
  }
  return -hours;
}
