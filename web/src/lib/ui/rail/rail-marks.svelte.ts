/** Stretches of time that a view marks on the time rail, epoch milliseconds: when a watch would have been on, or was. */
export const railMarks = $state<{ stretches: { from: number; to: number }[] }>({ stretches: [] });
