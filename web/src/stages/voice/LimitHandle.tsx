/** The handle of a limit in dB: up and down by the pointer or by keys, with the limit beside it. */
import { useTheme } from '@mui/material/styles';
import { drag } from '../../plot/drag';

interface Props {
  name: string;
  says: string;
  value: number;
  x: number;
  y: number;
  /** Whether its words stand above it. */
  above: boolean;
  /** By how much the limit grows for a pixel upwards. */
  perPixel: number;
  put: (value: number) => void;
}

export function LimitHandle({ name, says, value, x, y, above, perPixel, put }: Props) {
  const { own } = useTheme();
  const up = Math.sign(perPixel);
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuenow={value}
      aria-valuetext={says}
      style={{ cursor: 'ns-resize' }}
      onKeyDown={(event) => {
        const way = { ArrowUp: up, ArrowDown: -up }[event.key];
        if (!way) return;
        event.preventDefault();
        event.stopPropagation();
        put(value + way * (event.shiftKey ? 3 : 0.5));
      }}
      onPointerDown={(event) => {
        const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
        const begun = event.clientY - box.top;
        drag(
          event,
          (_x, py) => put(value + (begun - py) * perPixel),
          () => undefined,
        );
      }}>
      <rect x={x - 22} y={y - 9} width={44} height={18} fill="transparent" />
      <rect x={x - 13} y={y - 3} width={26} height={6} rx={3} fill={own.clay} stroke={own.plot} />
      <text x={x} y={above ? y - 7 : y + 16} textAnchor="middle" fill={own.clayText} fontSize={11}>
        {says}
      </text>
    </g>
  );
}
