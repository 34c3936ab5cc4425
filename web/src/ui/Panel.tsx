/** Pieces of the side panel. */
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import type { Finding } from '../api/types';
import { minus } from './format';

export function PanelTitle({ title, aside }: { title: string; aside?: ReactNode }) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'baseline', justifyContent: 'space-between', gap: 1 }}>
      <Typography component="h2" sx={{ fontSize: 16, fontWeight: 600 }}>
        {title}
      </Typography>
      <Typography variant="caption" color="text.secondary" component="div">
        {aside}
      </Typography>
    </Box>
  );
}

export function Section({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <Box component="section">
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'baseline', mb: 0.5 }}>
        <Typography component="h3" sx={{ fontSize: 13, fontWeight: 600 }}>
          {title}
        </Typography>
        <Typography variant="caption" color="text.secondary" component="div">
          {aside}
        </Typography>
      </Box>
      {children}
    </Box>
  );
}

export function Row({ children }: { children: ReactNode }) {
  return <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>{children}</Box>;
}

export function Figure({ name, value, tone }: { name: string; value: string; tone?: 'good' | 'clay' }) {
  return (
    <Box sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 12.5, lineHeight: '20px' }}>
      <Box component="span" sx={{ color: 'text.secondary' }}>
        {name}
      </Box>
      <Box
        component="span"
        sx={{ color: (t) => (tone === 'good' ? t.own.good : tone === 'clay' ? t.own.clayText : t.own.text) }}>
        {value}
      </Box>
    </Box>
  );
}

export function Trouble({ says, onClose }: { says: string | null; onClose: () => void }) {
  if (!says) return null;
  return (
    <Alert severity="error" variant="outlined" onClose={onClose} data-testid="trouble" sx={{ py: 0, fontSize: 12.5 }}>
      {says}
    </Alert>
  );
}

export function Notice({ says, onClose }: { says: string; onClose: () => void }) {
  return (
    <Alert severity="info" variant="outlined" onClose={onClose} data-testid="notice" sx={{ py: 0, fontSize: 12.5 }}>
      {says}
    </Alert>
  );
}

export function Findings({ findings, onApply }: { findings: Finding[]; onApply: (finding: Finding) => void }) {
  return findings.map((one) => (
    <Box
      key={`${one.kind}-${one.about}-${one.says}`}
      data-testid="finding"
      sx={{ borderLeft: 3, borderColor: 'primary.main', pl: 1, py: 0.25 }}>
      <Typography sx={{ fontSize: 13, fontWeight: 600 }}>{minus(one.says)}</Typography>
      <Typography sx={{ fontSize: 12 }} color="text.secondary">
        {minus(one.evidence)}
      </Typography>
      {one.action && (
        <Button variant="outlined" sx={{ mt: 0.5, py: 0 }} onClick={() => onApply(one)}>
          {one.action}
        </Button>
      )}
    </Box>
  ));
}

export const KeyLine = ({ children, follows }: { children: ReactNode; follows?: boolean }) => (
  <Typography variant="caption" color="text.secondary" sx={{ mt: follows ? 0 : 'auto', pt: 0.5 }}>
    {children}
  </Typography>
);
