import type { Frame } from '@tromix/core/profile/model';
import { viewLink } from '$lib/ui/shell/links';

/** Where a function of a process is looked at from inside; '' where it is none of JavaScript, and no function whose place is known whole. @param process its service, '' where it is not known */
export const observeLink = (
  { name, file, line, column }: Pick<Frame, 'name' | 'file' | 'line' | 'column'>,
  process: { service: string; pid?: number }
): string => (column > 0 ? insideLink({ name, file, line, column }, process) : '');

/** The same of the function that a line of it tells: of a source, or of a stack. */
export const lineInsideLink = (
  place: { name?: string; file: string; line: number },
  process: { service: string; pid?: number }
): string => insideLink({ name: '', ...place, column: 0 }, process);

const insideLink = (
  { name, file, line, column }: Pick<Frame, 'name' | 'file' | 'line' | 'column'>,
  process: { service: string; pid?: number }
): string =>
  line > 0 && /\.(?:[cm]?[jt]sx?)$/.test(file)
    ? viewLink(
        '/recorder/observe',
        {},
        {
          name,
          file,
          line: String(line),
          column: String(column),
          ...(process.service ? { process: process.service } : {}),
          ...(process.pid ? { pid: String(process.pid) } : {})
        }
      )
    : '';
