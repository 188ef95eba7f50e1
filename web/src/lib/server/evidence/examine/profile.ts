import { namesInProfile } from '@tromix/core/profile/names';
import { readProfile } from '@tromix/core/profile/read';
import { summariseProfile } from '@tromix/core/profile/summary';
import { cleaned } from './cleaned';
import type { Examiner } from '../kind';
import { wholeContent } from './examiner';

export const examineProfile: Examiner<'profile'> = async (file, format, { maxBytes }) => {
  const content = await wholeContent(file, maxBytes);
  const { profile, startedAtUs, warnings } = readProfile(content, format);
  return {
    kind: 'profile',
    format,
    summary: summariseProfile(profile, warnings),
    startedAtUs,
    durationNs: profile.durationNs,
    warnings,
    names: namesInProfile(profile),
    cleaned: await cleaned(file.path, content, format)
  };
};
