import type { TakenEvidence } from '$lib/server/store/take-evidence';

export interface UploadLabel {
  service: string;
  host: string;
  pid: string;
  /** As a date and time field gives it; '' where it is not known. */
  startedAt: string;
}

export type UploadResult = { ok: true; taken: TakenEvidence } | { ok: false; message: string };

/** Sends one file, with what is known of it. Progress from 0 to 1; the signal cancels. */
export function upload(
  file: File,
  label: UploadLabel,
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
    request.responseType = 'json';
    request.upload.onprogress = (event) =>
      onprogress(event.lengthComputable ? event.loaded / event.total : 0);
    request.onload = () => {
      const answer = request.response as (TakenEvidence & { message?: string }) | null;
      if (request.status === 201 && answer) resolve({ ok: true, taken: answer });
      else resolve({ ok: false, message: answer?.message ?? `The server answered ${request.status}.` });
    };
    request.onerror = () =>
      resolve({ ok: false, message: 'The server could not be reached. Nothing was stored.' });
    request.onabort = () => resolve({ ok: false, message: 'Cancelled. Nothing was stored.' });
    signal.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}
