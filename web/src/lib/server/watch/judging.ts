/** Whether this server judges the watches: of several on one database one does, and it alone tells what came of it. */
export const judging = { isHere: true };
