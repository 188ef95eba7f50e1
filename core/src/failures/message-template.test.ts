import { describe, expect, it } from 'vitest';
import { messageTemplate } from './message-template';

describe('a message with its values replaced', () => {
  // Kinds of values as messages of common practice hold them; the messages are invented.
  it.each([
    ['berth 12 is taken until 06:10', 'berth ? is taken until ?'],
    ['no tide from http://10.0.0.3:47403/tides?station=3', 'no tide from ?'],
    ['connect ECONNREFUSED 127.0.0.1:5432', 'connect ECONNREFUSED ?'],
    [
      "ENOENT: no such file or directory, open '/srv/plans/31.json'",
      'ENOENT: no such file or directory, open ?'
    ],
    ['cannot open /srv/plans/31.json now', 'cannot open ? now'],
    ['call 3f2b8c1e-9d4a-4f6b-8a1c-2e5d7f9b0c3d was lost', 'call ? was lost'],
    ['window 2026-03-01T06:10:00Z begins in the past', 'window ? begins in the past'],
    ['took 31.5ms of 5 s', 'took ?ms of ? s'],
    ['haven.Plan@6d06d69c is closed', 'haven.Plan? is closed'],
    ["didn't find the pilot's mooring", "didn't find the pilot's mooring"],
    ['write to mate@quillhaven.example failed', 'write to ? failed'],
    ['rows 1, 2, 3 are locked', 'rows ? are locked'],
    ['HTTP 502 from berths', 'HTTP ? from berths'],
    ['SHA256 differs', 'SHA256 differs'],
    ['ORA-00942: table or view does not exist', 'ORA-00942: table or view does not exist'],
    ['crane4711b does not answer', '? does not answer'],
    ['first line 7\nsecond', 'first line ?'],
    ['', '']
  ])('%s', (message, template) => expect(messageTemplate(message)).toBe(template));
  it('stays as it is when its values were replaced already', () => {
    const once = messageTemplate('berth 12 of "west" at 10.0.0.1:80 is taken until 06:10');
    expect(messageTemplate(once)).toBe(once);
  });
});
