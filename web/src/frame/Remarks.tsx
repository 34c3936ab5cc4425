/** What is wrong with a layout, and the ways out of it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { client, settled } from '../api/client';
import type { Layout, Remark } from '../api/types';

/** What the server says of a layout on a processor with so many outputs. */
export function useRemarks(layout: Layout | undefined, outputs: number): Remark[] {
  const [remarks, setRemarks] = useState<Remark[]>([]);
  useEffect(() => {
    let current = true;
    if (layout)
      void settled<Remark[]>(client.POST('/api/layout/remarks', { body: layout, params: { query: { outputs } } }))
        .then((found) => current && setRemarks(found))
        .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [layout, outputs]);
  return remarks;
}

interface Props {
  testId: string;
  remarks: Remark[];
  onTake: (layout: Layout) => void;
}

export function Remarks({ testId, remarks, onTake }: Props) {
  return (
    <Box data-testid={testId} sx={{ mt: 1, minHeight: 20 }}>
      {remarks.map((one) => (
        <Box key={one.says}>
          <Typography
            sx={{
              fontSize: 12.5,
              color: (t) => (one.bars ? t.own.clayText : t.own.quiet),
            }}>{`${capital(one.says)}.`}</Typography>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
            {one.ways_out.map((way) => (
              <Button key={way.says} variant="outlined" size="small" onClick={() => onTake(way.layout)}>
                {capital(way.says)}
              </Button>
            ))}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);
