/** What brings the image to the centre: laid over arcs, plot and strip while one rests on it; then taken and sent. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useEffect } from 'react';
import type { Image } from '../../api/types';
import type { Work } from '../../state/project';
import { NO_DRAFT, useWindow } from '../../state/window';
import { stopBand } from './image';
import { minus } from '../../ui/format';

export function Mendings({ work, image }: { work: Work; image: Image }) {
  const { own } = useTheme();
  const show = (n: number) => {
    useWindow.getState().set({ imageTry: n });
    work.draft(n < 0 ? [] : image.mendings[n].edits);
  };
  // Who leaves by a key leaves nothing drawn behind.
  useEffect(() => () => useWindow.getState().set({ imageTry: -1, draft: NO_DRAFT }), []);
  const heard = image.bands.filter((one) => one.state === 'heard').length;
  if (!image.mendings.length)
    return heard ? (
      <Typography sx={{ fontSize: 12.5 }} color="text.secondary">
        {`Nothing to mend in the ${heard === 1 ? 'band' : `${heard} bands`} heard.`}
      </Typography>
    ) : null;
  return image.mendings.map((one, n) => (
    <Box
      key={one.title}
      data-testid="mending"
      onPointerEnter={() => show(n)}
      onPointerLeave={() => show(-1)}
      onFocus={() => show(n)}
      onBlur={() => show(-1)}
      sx={{
        bgcolor: own.raised,
        borderRadius: 0.75,
        px: 1,
        py: 0.5,
        borderLeft: `3px solid ${n ? 'transparent' : own.clay}`,
      }}>
      <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{one.title}</Typography>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {minus(`${one.says}.`)}
      </Typography>
      {one.lacks ? (
        <Typography sx={{ fontSize: 12, color: own.clayText }}>{`It cannot be done: ${one.lacks}.`}</Typography>
      ) : (
        <Button
          variant="outlined"
          sx={{ mt: 0.5, py: 0 }}
          onClick={() => {
            show(-1);
            stopBand(work);
            void work.commit(one.edits, one.title);
          }}>
          Take it, then hear again
        </Button>
      )}
    </Box>
  ));
}
