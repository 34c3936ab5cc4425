import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

/** The rooms from the lowest to the highest: each may import from those before it, and from none after it. */
const ROOMS = ['api', 'state', 'ui', 'plot', 'stages', 'frame'];

const arrows = ROOMS.map((room, n) => ({
  files: [`src/${room}/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: ROOMS.slice(n + 1).map((above) => ({
          group: [`**/${above}/**`],
          message: `${room} stands below ${above}: arrows point from frame to api.`,
        })),
      },
    ],
  },
}));

export default ts.config(
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    plugins: { 'react-hooks': hooks },
    rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' },
  },
  ...arrows,
  { ignores: ['src/api/*.generated.d.ts'] },
);
