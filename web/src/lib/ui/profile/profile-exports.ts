import type { Action } from '$lib/ui/kit/actions';
import { saveFile, saveText } from '$lib/ui/kit/save-text';
import { flameSvg, savePng } from './flame-picture';
import type { ProfileScreen } from './profile-screen.svelte';

/** What a profile can be saved as, as it is shown. @param item name of the evidence @param startedAtUs epoch microseconds; null where it is not known */
export function profileExports(screen: ProfileScreen, item: string, startedAtUs: number | null): Action[] {
  const { client, opened, view, samples, shaping } = screen;
  if (!client || !opened || !view) return [];
  const name = (item || 'profile').replace(/(?:\.(?:cpuprofile|heapprofile|folded|txt|json|pb|gz))+$/, '');
  const folded = async (): Promise<void> =>
    saveText(`${name}.folded.txt`, await client.service.write('folded', samples, shaping), 'text/plain');
  const cpuProfile = async (): Promise<void> => {
    const text = await client.service.write('cpuprofile', samples, shaping);
    saveText(`${name}.cpuprofile`, text, 'application/json');
  };
  const protobuf = async (): Promise<void> =>
    saveFile(`${name}.pb.gz`, await client.service.writeProtobuf(samples, shaping, startedAtUs));
  return [
    { name: 'Folded stacks', run: () => void folded() },
    { name: 'Protobuf profile, gzip', run: () => void protobuf() },
    ...(opened.unit === 'nanoseconds' ? [{ name: 'V8 CPU profile', run: () => void cpuProfile() }] : []),
    ...(view.layout.rows > 0
      ? [
          {
            name: 'Picture, SVG',
            run: () => saveText(`${name}.svg`, flameSvg(opened, view), 'image/svg+xml')
          },
          { name: 'Picture, PNG', run: () => void savePng(`${name}.png`, flameSvg(opened, view)) }
        ]
      : [])
  ];
}
