/** How slow a network is made: milliseconds a round trip, and bits a second each way; null where it is left as it is. */
export interface NetworkLimits {
  latencyMs: number;
  downBits: number;
  upBits: number;
}

/** Networks to choose from, by their names: rounded figures as they are used to try pages (common practice). */
export const NETWORKS = {
  none: { name: 'as it is', limits: null },
  fast: { name: '20 Mbit/s, 20 ms', limits: { latencyMs: 20, downBits: 20e6, upBits: 10e6 } },
  mobile: { name: '10 Mbit/s, 60 ms', limits: { latencyMs: 60, downBits: 10e6, upBits: 3e6 } },
  slow: { name: '1.6 Mbit/s, 150 ms', limits: { latencyMs: 150, downBits: 1.6e6, upBits: 750e3 } },
  edge: { name: '400 kbit/s, 400 ms', limits: { latencyMs: 400, downBits: 400e3, upBits: 200e3 } }
} as const satisfies Record<string, { name: string; limits: NetworkLimits | null }>;
export type NetworkName = keyof typeof NETWORKS;
export const NETWORK_NAMES = Object.keys(NETWORKS) as NetworkName[];

/** Times slower than the machine it runs on. */
export const CPU_SLOWDOWNS = [1, 2, 4, 6] as const;

/** Under what a load was recorded, in words. */
export const slowDownWords = (network: NetworkName, cpu: number): string =>
  [network === 'none' ? '' : NETWORKS[network].name, cpu > 1 ? `CPU ÷ ${cpu}` : '']
    .filter(Boolean)
    .join(', ') || 'no slow-down';
