/** How the lines of one chart are told apart: by colour, and by their dashes where colour does not. */
export const LINE_LOOKS: readonly { token: string; dash: 'solid' | [number, number] }[] = [
  { token: 'steer', dash: 'solid' },
  { token: 'pen', dash: [6, 2] },
  { token: 'acc-remote', dash: [2, 2] },
  { token: 'ok', dash: [8, 2] },
  { token: 'acc-lock', dash: [4, 3] },
  { token: 'acc-file', dash: [1, 2] },
  { token: 'acc-messaging', dash: [10, 3] },
  { token: 'ink-2', dash: [3, 1] }
];
