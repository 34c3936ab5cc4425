/** A meter for every input: the level now, its peak held, and the window that peaks should reach. */
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import type { Meter } from '../../api/types';
import { plain } from '../../ui/format';
import { useWindow } from '../../state/window';

const LOW = -72;

const share = (level: number) => `${Math.max(0, Math.min(1, (level - LOW) / -LOW)) * 100}%`;

export function Meters({ meters, aim }: { meters: Meter[]; aim: [number, number] }) {
  const { own } = useTheme();
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.75, mb: 0.5 }}>
      {meters.map((meter) => {
        const tone = meter.most > -3 ? own.clay : own.good;
        return (
          <Box key={meter.name} data-testid="meter" sx={{ fontSize: 12 }}>
            <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
              <span>{meter.name}</span>
              <Box component="span" color="text.secondary">
                {meter.most > -119 ? `${plain(meter.now, 0)} · most ${plain(meter.most, 0)} dBFS` : '…'}
              </Box>
            </Box>
            <Box
              role="meter"
              aria-label={`Level of ${meter.name}`}
              aria-valuemin={LOW}
              aria-valuemax={0}
              aria-valuenow={Math.max(LOW, Math.round(meter.now))}
              sx={{ position: 'relative', height: 12, borderRadius: 1, bgcolor: own.plot, overflow: 'hidden' }}>
              <Box
                sx={{
                  position: 'absolute',
                  left: share(aim[0]),
                  width: `calc(${share(aim[1])} - ${share(aim[0])})`,
                  top: 0,
                  bottom: 0,
                  bgcolor: own.raised,
                }}
              />
              <Box sx={{ position: 'absolute', left: 0, top: 3, bottom: 3, width: share(meter.now), bgcolor: tone }} />
              <Box
                sx={{
                  position: 'absolute',
                  left: share(meter.held),
                  top: 0,
                  bottom: 0,
                  width: '2px',
                  bgcolor: own.text,
                }}
              />
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

/** Those of the job that runs, as they stand at this moment. */
export function MetersNow({ aim }: { aim: [number, number] }) {
  const meters = useWindow((state) => state.moment?.meters);
  return meters ? <Meters meters={meters} aim={aim} /> : null;
}
