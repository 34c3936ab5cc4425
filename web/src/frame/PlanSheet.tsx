/** The plan of the job: all steps in their order, what is done, what is next, what was left out. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import type { Step } from '../api/types';
import { STAGE_LIST } from '../stages/list';
import { minus } from '../ui/format';
import type { Planned } from './steps';

const SAYS: Record<Step['state'], string> = {
  done: 'done',
  next: 'next',
  later: 'later',
  skipped: 'left out',
  'not needed': 'not needed',
};

export function PlanSheet({ planned, onClose }: { planned: Planned; onClose: () => void }) {
  const { plan } = planned;
  return (
    <Dialog open onClose={onClose} transitionDuration={0} fullWidth maxWidth="md" aria-labelledby="plan-title">
      <DialogTitle id="plan-title">Plan of the job</DialogTitle>
      <DialogContent sx={{ maxHeight: 560 }} tabIndex={0}>
        {STAGE_LIST.map((stage) => {
          const steps = plan?.steps.filter((one) => one.stage === stage.id) ?? [];
          if (!steps.length) return null;
          return (
            <Box key={stage.id} component="section" aria-label={stage.name} sx={{ mb: 1 }}>
              <Typography component="h3" sx={{ fontSize: 13, fontWeight: 600 }}>
                {stage.name}
              </Typography>
              {steps.map((one) => (
                <Row key={one.key} step={one} planned={planned} onClose={onClose} />
              ))}
            </Box>
          );
        })}
      </DialogContent>
    </Dialog>
  );
}

function Row({ step, planned, onClose }: { step: Step; planned: Planned; onClose: () => void }) {
  const { own } = useTheme();
  const open = step.state === 'next' || step.state === 'later';
  const tone = step.state === 'done' ? own.good : step.state === 'next' ? own.clayText : own.quiet;
  return (
    <Box
      data-testid={`step-${step.key}`}
      sx={{ display: 'flex', alignItems: 'center', gap: 1.5, borderTop: 1, borderColor: 'divider', minHeight: 28 }}>
      <Box sx={{ width: 62, fontSize: 12, color: tone }}>{SAYS[step.state]}</Box>
      <Box sx={{ width: 250, fontSize: 13, fontWeight: step.state === 'next' ? 600 : 400 }}>{step.name}</Box>
      <Typography
        noWrap
        sx={{ flex: 1, fontSize: 12 }}
        color="text.secondary"
        title={minus(`${step.why}; ${step.does}`)}>
        {open ? minus(step.why) : ''}
      </Typography>
      <Button
        size="small"
        onClick={() => {
          planned.show(step);
          onClose();
        }}>
        Go there
      </Button>
      {step.state !== 'done' && (
        <Button size="small" onClick={() => planned.leave(step, step.state !== 'skipped')}>
          {step.state === 'skipped' ? 'Take it in' : 'Leave it out'}
        </Button>
      )}
    </Box>
  );
}
