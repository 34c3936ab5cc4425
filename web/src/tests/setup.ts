/** What a browser gives and the tests' bare engine does not: storage, and a place. */

const kept = new Map<string, string>();

Object.assign(globalThis, {
  localStorage: {
    getItem: (name: string) => kept.get(name) ?? null,
    setItem: (name: string, value: string) => void kept.set(name, value),
    removeItem: (name: string) => void kept.delete(name),
  },
  location: { protocol: 'http:', host: '127.0.0.1:8642' },
});
