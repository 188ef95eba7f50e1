/** A thread to be written as a JVM would. Locks are addresses. */
export interface WrittenThread {
  name: string;
  state?: string;
  frames?: string[];
  holds?: string[];
  wants?: string;
  synchronizers?: string[];
  cpuMs?: number;
  elapsedMs?: number;
}

/** A text dump in the form of JDK 17. */
export function writeJvmDump(threads: readonly WrittenThread[], time = '2026-11-24 09:27:00'): string {
  const lines = [time, 'Full thread dump OpenJDK 64-Bit Server VM (17.0.15 mixed mode, sharing):', ''];
  threads.forEach((thread, i) => {
    const {
      name,
      frames = ['quillhaven.pilots.Roster.sync(Roster.java:12)'],
      wants,
      holds = [],
      synchronizers
    } = thread;
    const state = thread.state ?? (wants ? 'BLOCKED (on object monitor)' : 'RUNNABLE');
    const clocks = `cpu=${(thread.cpuMs ?? 1).toFixed(2)}ms elapsed=${((thread.elapsedMs ?? 1000) / 1000).toFixed(2)}s`;
    lines.push(
      `"${name}" #${i + 10} prio=5 os_prio=0 ${clocks} tid=0x${(i + 4096).toString(16).padStart(16, '0')} nid=0x${(i + 100).toString(16)} runnable  [0x00007f10415fe000]`,
      `   java.lang.Thread.State: ${state}`
    );
    frames.forEach((frame, depth) => {
      lines.push(`\tat ${frame}`);
      if (depth === 0 && wants) lines.push(`\t- waiting to lock <${wants}> (a quillhaven.pilots.Ledger)`);
      if (depth === frames.length - 1)
        for (const lock of holds) lines.push(`\t- locked <${lock}> (a quillhaven.pilots.Ledger)`);
    });
    if (synchronizers)
      lines.push(
        '',
        '   Locked ownable synchronizers:',
        ...synchronizers.map(
          (lock) => `\t- <${lock}> (a java.util.concurrent.locks.ReentrantLock$NonfairSync)`
        )
      );
    lines.push('');
  });
  lines.push('JNI global refs: 15, weak refs: 0', '');
  return lines.join('\n');
}
