/**
 * The image seen from the seat: an arc for each band, the lowest nearest, from far left to far right. A band stands
 * where its mark is; one that falls in two has two. The arc that is asked for is drawn large: press or drag on it.
 */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useState, type PointerEvent } from 'react';
import type { ImageBand } from '../../api/types';
import { useSize } from '../../plot/useSize';
import { usePick } from '../../state/window';
import { hertz } from '../../ui/format';
import { keepAnswer, moveMark, playOn, same, split, stepBand, useImage } from './image';
import type { StageProps } from '../props';
import { PlotHead } from '../common/PlotHead';
import { HintToggle } from '../common/Hint';

/** How far the arcs reach to each side, in degrees. */
const REACH = 62;

interface Arc {
  x: (place: number, radius: number) => number;
  y: (place: number, radius: number) => number;
}

export function ImagePlots({ work }: StageProps) {
  const image = useImage(work);
  const { own } = useTheme();
  const { imageBand, imageMarks, imageBlind, imageTry, progress, set } = usePick(
    'imageBand',
    'imageMarks',
    'imageBlind',
    'imageTry',
    'progress',
    'set',
  );
  const [held, setHeld] = useState(false);
  const [ref, { width, height }] = useSize<HTMLDivElement>();
  const plays = progress?.kind === 'image' && work.recording;
  const room = Math.max(120, height - 24);
  const most = Math.min(room - 40, (width / 2 - 70) / Math.sin((REACH * Math.PI) / 180));
  const seat = { x: width / 2, y: room - 8 };
  const arc: Arc = {
    x: (place, radius) => seat.x + radius * Math.sin((place * REACH * Math.PI) / 180),
    y: (place, radius) => seat.y - radius * Math.cos((place * REACH * Math.PI) / 180),
  };
  const bands = imageBlind || !image ? [] : image.bands;
  const radius = (n: number) => most * (0.42 + (0.5 * (n + 1)) / Math.max(1, bands.length));
  const asked = bands.findIndex((one) => same(one, imageBand));
  const large = imageBlind || asked < 0 ? most * 0.8 : radius(asked);
  const put = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const angle = Math.atan2(event.clientX - box.left - seat.x, seat.y - (event.clientY - box.top));
    const place = Math.round(Math.min(1, Math.max(-1, angle / ((REACH * Math.PI) / 180))) * 100) / 100;
    if (!split(imageMarks)) set({ imageMarks: [place, place] });
    else {
      const nearer = Math.abs(place - imageMarks[0]) < Math.abs(place - imageMarks[1]) ? 0 : 1;
      set({ imageMarks: nearer ? [imageMarks[0], place] : [place, imageMarks[1]] });
    }
  };
  const expected = image && imageTry >= 0 ? image.mendings[imageTry]?.expected : undefined;
  const heard = bands.filter((one) => one.state === 'heard');
  return (
    <Box sx={{ minHeight: 0, display: 'grid', gridTemplateRows: 'auto 1fr' }}>
      <div>
        <PlotHead
          smoothed={false}
          title="Where it stands"
          aside={<HintToggle />}
          hint="Close your eyes, listen, and press where the sound stands. Good: all bands in the middle, each in one."
          says={
            <>
              <Box component="span" sx={{ fontWeight: 600 }}>
                {imageBlind ? 'a band that is not told' : hertz(imageBand.hz)}
              </Box>
              {plays ? ', playing' : ', silent'}
            </>
          }
        />
      </div>
      <Box ref={ref} sx={{ minHeight: 0, overflow: 'hidden' }}>
        {width > 0 && (
          <svg
            width={width}
            height={room}
            role="slider"
            tabIndex={0}
            aria-label="Place of the sound, from left to right"
            aria-valuemin={-100}
            aria-valuemax={100}
            aria-valuenow={Math.round(imageMarks[1] * 100)}
            aria-valuetext={spoken(imageMarks)}
            data-testid="image-arc"
            style={{ touchAction: 'none', cursor: 'crosshair', display: 'block' }}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setHeld(true);
              put(event);
            }}
            onPointerMove={(event) => held && put(event)}
            onPointerUp={() => setHeld(false)}
            onKeyDown={(event) => {
              // What has the focus gets its keys first; the same ones work from anywhere.
              const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key] as -1 | 1 | undefined;
              const band = { ArrowDown: -1, ArrowUp: 1 }[event.key] as -1 | 1 | undefined;
              if (by) moveMark(by, event.shiftKey);
              else if (band) playOn(work, () => stepBand(image, band));
              else if (event.key === 'Enter') keepAnswer(work);
              else return;
              event.preventDefault();
              event.stopPropagation();
            }}>
            <Sector arc={arc} most={most * 0.96} seat={seat} fill={own.good} />
            {bands.map((one, n) => (
              <Ring key={`${one.hz}-${one.octaves}`} arc={arc} band={one} radius={radius(n)} asked={n === asked} />
            ))}
            {expected?.map((places, n) => {
              const at = heard[n] && bands.indexOf(heard[n]);
              return at === undefined
                ? null
                : places.map((place, each) => (
                    <circle
                      key={`${n}-${each}`}
                      cx={arc.x(place, radius(at))}
                      cy={arc.y(place, radius(at))}
                      r={7}
                      fill="none"
                      stroke={own.clay}
                      strokeWidth={2}
                    />
                  ));
            })}
            <path d={line(arc, large)} fill="none" stroke={own.text} strokeWidth={3} opacity={0.55} />
            {[...new Set(imageMarks)].map((place) => (
              <circle
                key={place}
                data-testid="image-mark"
                cx={arc.x(place, large)}
                cy={arc.y(place, large)}
                r={17}
                fill={own.clay}
                stroke={own.plot}
                strokeWidth={3}
              />
            ))}
            {(['left', 'centre', 'right'] as const).map((word, n) => (
              <text
                key={word}
                x={arc.x(n - 1, most) + (n - 1) * 8}
                y={arc.y(n - 1, most) - (n === 1 ? 6 : 0)}
                textAnchor={n === 0 ? 'end' : n === 1 ? 'middle' : 'start'}
                fill={own.quiet}
                fontSize={15}>
                {word}
              </text>
            ))}
            <text
              x={seat.x}
              y={seat.y - most * 0.14}
              textAnchor="middle"
              fill={own.text}
              fontSize={40}
              fontWeight={600}
              data-testid="image-band">
              {imageBlind ? '· · ·' : hertz(imageBand.hz)}
            </text>
            <text x={seat.x} y={seat.y - most * 0.05} textAnchor="middle" fill={own.quiet} fontSize={16}>
              {spoken(imageMarks)}
            </text>
          </svg>
        )}
      </Box>
    </Box>
  );
}

/** The stretch that counts as the centre. */
function Sector({ arc, most, seat, fill }: { arc: Arc; most: number; seat: { x: number; y: number }; fill: string }) {
  const inner = most * 0.4;
  const d =
    `M ${arc.x(-0.1, inner)} ${arc.y(-0.1, inner)} L ${arc.x(-0.1, most)} ${arc.y(-0.1, most)} ` +
    `A ${most} ${most} 0 0 1 ${arc.x(0.1, most)} ${arc.y(0.1, most)} L ${arc.x(0.1, inner)} ${arc.y(0.1, inner)} Z`;
  return (
    <g>
      <path d={d} fill={fill} opacity={0.14} />
      <circle cx={seat.x} cy={seat.y} r={5} fill={fill} opacity={0.5} />
    </g>
  );
}

function Ring({ arc, band, radius, asked }: { arc: Arc; band: ImageBand; radius: number; asked: boolean }) {
  const { own } = useTheme();
  const shown = band.stands ?? band.was;
  const good = band.stands?.sounds === 'centre';
  const places = shown ? (shown.sounds === 'split' ? shown.places : [shown.places[0]]) : [];
  return (
    <g>
      <path d={line(arc, radius)} fill="none" stroke={own.line} strokeWidth={asked ? 2 : 1.2} />
      <text
        x={arc.x(1, radius) + (asked ? 24 : 8)}
        y={arc.y(1, radius) + 4}
        fill={asked ? own.text : own.quiet}
        fontSize={12}
        fontWeight={asked ? 600 : 400}>
        {hertz(band.hz)}
      </text>
      {places.map((place, n) => (
        <circle
          key={n}
          cx={arc.x(place, radius)}
          cy={arc.y(place, radius)}
          r={7}
          fill={band.stands ? (good ? own.good : own.clay) : 'none'}
          stroke={band.stands ? own.plot : own.quiet}
          strokeWidth={1.5}
          strokeDasharray={band.stands ? undefined : '2 2'}
        />
      ))}
    </g>
  );
}

const line = (arc: Arc, radius: number) =>
  `M ${arc.x(-1, radius)} ${arc.y(-1, radius)} A ${radius} ${radius} 0 0 1 ${arc.x(1, radius)} ${arc.y(1, radius)}`;

/** Where marks stand, in words. */
export function spoken(marks: [number, number]): string {
  if (split(marks)) return `in two: ${place(Math.min(...marks))} and ${place(Math.max(...marks))}`;
  return place(marks[1]);
}

const place = (at: number) =>
  Math.abs(at) < 0.005 ? 'centre' : `${Math.round(Math.abs(at) * 100)} % to the ${at < 0 ? 'left' : 'right'}`;
