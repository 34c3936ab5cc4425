/** What is to be typed into the device, large enough to type from; the setting whose turn it is stands out. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useEffect, useRef } from 'react';
import type { Work } from '../../state/project';
import { minus } from '../../ui/format';
import { PlotHead } from '../common/PlotHead';
import { typing } from './typing';

export function TypingSheet({ work }: { work: Work }) {
  const { own } = useTheme();
  const { unsent } = work.project.link;
  const { tick, untick } = typing(work);
  const list = useRef<HTMLOListElement>(null);
  const [turn] = unsent;
  useEffect(() => {
    list.current?.scrollTo({ top: 0 });
  }, [turn?.channel, turn?.what]);
  return (
    <Box sx={{ minHeight: 0, display: 'flex', flexDirection: 'column', overflow: 'hidden' }}>
      <PlotHead
        title="Type this in"
        says={unsent.length ? `${unsent.length} settings left` : 'everything is typed'}
        smoothed={false}
        hint="Type the large line into the device and tick it off with T; Backspace takes the last tick back."
      />
      {turn ? (
        <Box
          data-testid="turn"
          sx={{ mx: 2, my: 1, p: 2, borderLeft: 6, borderColor: 'primary.main', bgcolor: own.raised, borderRadius: 1 }}>
          <Typography sx={{ fontSize: 17 }} color="text.secondary">
            {`${turn.channel} · ${turn.what}`}
          </Typography>
          <Typography sx={{ fontSize: 34, fontWeight: 600, lineHeight: 1.25 }}>{minus(turn.after)}</Typography>
          <Typography sx={{ fontSize: 14, mb: 1 }} color="text.secondary">
            {`it says ${minus(turn.before)} now`}
          </Typography>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button variant="contained" onClick={() => tick(turn)} data-testid="tick">
              Typed · T
            </Button>
            <Button variant="outlined" onClick={untick}>
              Back
            </Button>
          </Box>
        </Box>
      ) : (
        <Box sx={{ mx: 2, my: 1, p: 2, borderLeft: 6, borderColor: own.good, bgcolor: own.raised, borderRadius: 1 }}>
          <Typography sx={{ fontSize: 22 }} data-testid="all-typed">
            The device holds this tune, as far as it was typed right.
          </Typography>
          <Typography sx={{ fontSize: 14, mb: 1 }} color="text.secondary">
            Record the whole in Proof: a value that was typed wrong parts it from the prediction.
          </Typography>
          <Button variant="outlined" onClick={untick}>
            Back
          </Button>
        </Box>
      )}
      <Box
        component="ol"
        ref={list}
        tabIndex={0}
        aria-label="What is left to be typed"
        data-testid="to-type"
        sx={{ m: 0, mx: 2, p: 0, listStyle: 'none', overflowY: 'auto', flex: 1, minHeight: 0 }}>
        {unsent.slice(1).map((one) => (
          <Box
            component="li"
            key={`${one.channel} ${one.what}`}
            sx={{
              display: 'grid',
              gridTemplateColumns: '180px 130px 1fr auto',
              alignItems: 'baseline',
              gap: 1.5,
              py: 0.5,
              px: 2,
              fontSize: 17,
              borderBottom: 1,
              borderColor: 'divider',
            }}>
            <span>{one.channel}</span>
            <Box component="span" sx={{ color: 'text.secondary' }}>
              {one.what}
            </Box>
            <strong>{minus(one.after)}</strong>
            <Button size="small" onClick={() => tick(one)} aria-label={`Typed: ${one.channel}, ${one.what}`}>
              Typed
            </Button>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
