/** Something that can be done by a key or by its name. */
export interface Action {
  id: string;
  name: string;
  key: string;
  match: (event: KeyboardEvent) => boolean;
  run: (event?: KeyboardEvent) => void;
}

/** Whether a key was pressed alone, or with Shift. */
export const pressed = (key: string) => (event: KeyboardEvent) =>
  event.key.toLowerCase() === key && !event.ctrlKey && !event.metaKey;
