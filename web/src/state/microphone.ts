/** The browser's microphone in this window: open through all stages, closed with another device. */
import { useCallback, useEffect, useState } from 'react';
import type { Project } from '../api/types';
import { BrowserSound, type Choices } from '../sound/browserSound';
import { useWindow } from './window';

const KEPT = 'imbrix-microphone';

const sound = new BrowserSound((values) => {
  const { microphone, set } = useWindow.getState();
  set({ microphone: { ...microphone, ...values } });
});

/** Which microphone and which output were chosen in this browser; empty for the ones that the system prefers. */
export function chosenSound(): Choices {
  const preferred: Choices = { input: '', output: '', channels: 1 };
  try {
    return { ...preferred, ...(JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<Choices>) };
  } catch {
    return preferred;
  }
}

/** Open the microphone, which may ask the person; whether it is open. */
export const openMicrophone = (rate: number): Promise<boolean> => sound.open(rate, chosenSound());

export const closeMicrophone = () => sound.close();

/** Choose another microphone or output, and open it. */
export function chooseSound(values: Partial<Choices>, rate: number): Promise<boolean> {
  localStorage.setItem(KEPT, JSON.stringify({ ...chosenSound(), ...values }));
  return openMicrophone(rate);
}

/** Whether the page may hear without asking anyone. */
async function allowed(): Promise<boolean> {
  try {
    const asked = await navigator.permissions.query({ name: 'microphone' as PermissionName });
    return asked.state === 'granted';
  } catch {
    return false; // a browser that does not tell is asked by the button
  }
}

/** Keep the microphone as the rig wants it: open where it may be without asking, at the rig's rate, else let go. */
export function useMicrophone({ device, rate, browser }: Project['rig']) {
  const state = useWindow((now) => now.microphone.state);
  const wanted = device === 'browser';
  const held = browser !== null;
  const wrong = browser !== null && browser.rate !== rate;
  useEffect(() => {
    if (wanted && state === 'closed' && !held) {
      void allowed().then((yes) => {
        if (yes && useWindow.getState().microphone.state === 'closed') void openMicrophone(rate);
      });
    }
    if (wanted && state === 'open' && wrong) void openMicrophone(rate);
  }, [wanted, state, held, wrong, rate]);
  useEffect(() => {
    if (!wanted) return;
    return () => closeMicrophone();
  }, [wanted]);
}

export interface Ends {
  inputs: { id: string; label: string }[];
  outputs: { id: string; label: string }[];
}

/** The microphones and outputs that the browser has, looked for anew when one comes or goes. */
export function useEnds(open: boolean): Ends {
  const [ends, setEnds] = useState<Ends>({ inputs: [], outputs: [] });
  const look = useCallback(async () => {
    const all = (await navigator.mediaDevices?.enumerateDevices()) ?? [];
    const of = (kind: MediaDeviceKind) =>
      all
        .filter((one) => one.kind === kind && one.deviceId && one.deviceId !== 'default')
        .map((one) => ({ id: one.deviceId, label: one.label || 'Unnamed' }));
    setEnds({ inputs: of('audioinput'), outputs: of('audiooutput') });
  }, []);
  useEffect(() => {
    const { mediaDevices } = navigator;
    void look().catch(() => undefined);
    const again = () => void look().catch(() => undefined);
    mediaDevices?.addEventListener('devicechange', again);
    return () => mediaDevices?.removeEventListener('devicechange', again);
  }, [look, open]);
  return ends;
}
