/** The words, marks and switches on a tile. */
import { useTheme } from '@mui/material/styles';
import type { Driver, Project, Tune } from '../../api/types';
import { nameInGroup, rowOf, tiesOf } from '../../state/system';
import { DIGIT, figuresOf, LETTER, type TextPlace } from './placed';
import { ROW, TOP, type StripProps } from './span';
import { hueOf } from '../../ui/theme';

/** The words on a tile, above all tiles so that they stay readable where these overlap. */
export function TileText({
  project,
  tune,
  driver,
  at: { x: textX, switchX },
  onMute,
  onSolo,
}: StripProps & { driver: Driver; at: TextPlace }) {
  const { own } = useTheme();
  const { muted } = tune.channels[driver.id];
  // The pills stand between the rows: the upper row's words keep above them, the lower row's below.
  const row = rowOf(project, driver);
  const y = TOP + (row === 'right' ? ROW + 3 : -3);
  const name = nameInGroup(driver);
  const letters = Math.floor((switchX - textX) / LETTER);
  const shown = name.length > letters ? `${name.slice(0, letters - 1)}…` : name;
  const [figures, words] = figuresOf(tune, driver);
  // On a narrow tile the switches need the room of the unit.
  const unit = (figures.length + 3 + words.length) * DIGIT < switchX - textX ? ' ms' : '';
  return (
    <g>
      <g style={{ pointerEvents: 'none' }}>
        <text x={textX} y={y + 15} fill={own.text} fontWeight={600}>
          {shown}
          {shown !== name && <title>{driver.name}</title>}
        </text>
        <text x={textX} y={y + 28} fill={own.quiet}>
          {`${figures}${unit}${words}`}
        </text>
        {row === 'both' && (
          <text x={textX} y={y + 64} fill={own.quiet}>
            both sides
          </text>
        )}
        <Marks
          x={row === 'both' ? textX + 2 : textX + shown.length * 6.5 + 12}
          y={row === 'both' ? y + 50 : y + 11}
          end={row === 'both' ? Math.max(switchX, textX + 60) : switchX}
          driver={driver}
          project={project}
          tune={tune}
        />
      </g>
      <Switch
        x={switchX}
        y={y + 4}
        text="M"
        on={muted}
        name={`Mute ${driver.name}`}
        colour={own.clayText}
        press={() => onMute(driver.id)}
      />
      <Switch
        x={switchX}
        y={y + 18}
        text="S"
        on={tune.solo === driver.id}
        name={`Solo ${driver.name}`}
        colour={own.good}
        press={() => onSolo(driver.id)}
      />
    </g>
  );
}

/** Upright strokes for what is tied left and right: whole for corners, two dashes for the level, three for bands. */
const DASHES = { corners: '', level: '3 2', bands: '2 1' };

/** What there is of a driver: a ring for its take, a bar for its correction; what would pass `end` is left out. */
function Marks({
  x,
  y,
  end,
  driver,
  project,
  tune,
}: {
  x: number;
  y: number;
  end: number;
  driver: Driver;
  project: Project;
  tune: Tune;
}) {
  const { own } = useTheme();
  const hue = hueOf(own, driver);
  const room = end - x;
  const ties = tiesOf(tune, driver, project).filter((_, n) => room > 34 + 7 * n);
  return (
    <g>
      {project.drivers[driver.id] && room > 3 && (
        <circle cx={x} cy={y} r={3} fill={hue}>
          <title>bare take there</title>
        </circle>
      )}
      {project.impedance[driver.id]?.take_id && room > 26 && (
        <path d={`M${x + 19} ${y - 2}h6m-6 4h6`} stroke={hue} strokeWidth={1.5}>
          <title>impedance there</title>
        </path>
      )}
      {ties.map((what, n) => (
        <path
          key={what}
          d={`M${x + 32 + 7 * n} ${y - 4}v8`}
          stroke={hue}
          strokeWidth={2}
          strokeDasharray={DASHES[what] || undefined}>
          <title>{`${what} as on the other side`}</title>
        </path>
      ))}
      {tune.channels[driver.id].bands.length > 0 && room > 16 && (
        <rect x={x + 7} y={y - 3} width={8} height={6} fill={hue}>
          <title>correction there</title>
        </rect>
      )}
    </g>
  );
}

function Switch({
  x,
  y,
  text,
  on,
  name,
  colour,
  press,
}: {
  x: number;
  y: number;
  text: string;
  on: boolean;
  name: string;
  colour: string;
  press: () => void;
}) {
  const { own } = useTheme();
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={name}
      aria-pressed={on}
      style={{ cursor: 'pointer' }}
      onClick={(event) => {
        event.stopPropagation();
        press();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') press();
      }}>
      <rect x={x} y={y} width={16} height={13} rx={3} fill={on ? colour : own.panel} stroke={own.line} />
      <text x={x + 8} y={y + 10} fontSize={10} textAnchor="middle" fill={on ? own.onClay : own.quiet}>
        {text}
      </text>
    </g>
  );
}
