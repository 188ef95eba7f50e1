/** Condition: a column names a group, or one that was merged into it. @param group what names the group in the statement, as `?1` */
export const isOfGroup = (column: string, group: string): string =>
  `${column} IN (SELECT ${group} UNION ALL SELECT group_id FROM failure_merges WHERE into_id = ${group})`;
