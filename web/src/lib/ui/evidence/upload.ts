import type { TakenEvidence } from '$lib/server/evidence/take-evidence';

export interface UploadLabel {
  service: string;
  host: string;
  pid: string;
  /** As a date and time field gives it; '' where it is not known. */
  startedAt: string;
}

export type UploadResult =
  { ok: true; taken: TakenEvidence } | { ok: false; message: string; needsToken: boolean };

/** Sends one file, with what is known of it. Progress from 0 to 1; the signal cancels. @param token ingest token; '' for none. */
export function upload(
  file: File,
  label: UploadLabel,
  token: string,
  onprogress: (part: number) => void,
  signal: AbortSignal
): Promise<UploadResult> {
  const query = new URLSearchParams({ name: file.name, service: label.service, host: label.host });
  if (/^\d+$/.test(label.pid)) query.set('pid', label.pid);
  const startedAt = label.startedAt ? new Date(label.startedAt).getTime() : NaN;
  if (Number.isFinite(startedAt)) query.set('startedAtUs', String(startedAt * 1000));
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/api/evidence?${query}`);
    if (token) request.setRequestHeader('authorization', `Bearer ${token}`);
    request.upload.onprogress = (event) =>
      onprogress(event.lengthComputable ? event.loaded / event.total : 0);
    request.onload = () => {
      const answer = parsed(request.responseText);
      if (request.status === 201 && typeof answer !== 'string') resolve({ ok: true, taken: answer });
      else {
        const message = typeof answer === 'string' ? answer : answer.message;
        resolve({
          ok: false,
          message: message || `The server answered ${request.status}.`,
          needsToken: request.status === 401
        });
      }
    };
    request.onerror = () =>
      resolve({
        ok: false,
        message: 'The server could not be reached. Nothing was stored.',
        needsToken: false
      });
    request.onabort = () =>
      resolve({ ok: false, message: 'Cancelled. Nothing was stored.', needsToken: false });
    signal.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}

/** A JSON answer; a text where it is none. */
function parsed(text: string): (TakenEvidence & { message?: string }) | string {
  try {
    return JSON.parse(text) as TakenEvidence;
  } catch {
    return text;
  }
}
