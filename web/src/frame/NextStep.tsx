/** One line, in the same place of every stage: what comes next, why, and the button that does it. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Step, StepChoice } from '../api/types';
import type { Planned } from './steps';
import { minus } from '../ui/format';

interface Props {
  planned: Planned;
  open: () => void;
}

export function NextStep({ planned, open }: Props) {
  const { own } = useTheme();
  const [others, setOthers] = useState<HTMLElement | null>(null);
  const { plan, step, name, why, does, doing, fresh, press, take } = planned;
  if (!plan) return <Box sx={{ bgcolor: own.ground }} />;
  const done = plan.done;
  return (
    <Box
      component="section"
      aria-label="What comes next"
      data-testid="next-step"
      data-step={step?.key ?? ''}
      data-fresh={fresh ? 'yes' : 'no'}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.25,
        pl: 1.75,
        pr: 1.5,
        bgcolor: own.raised,
        borderBottom: 1,
        borderColor: 'divider',
        minWidth: 0,
      }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography noWrap sx={{ fontSize: 12.5, lineHeight: '17px' }} title={minus(`${name}: ${why}`)}>
          <Box component="span" sx={{ color: own.clayText, fontWeight: 600 }}>
            {step ? 'Next ' : 'Done '}
          </Box>
          <Box component="span" sx={{ fontWeight: 600 }}>
            {name}
          </Box>
          <Box component="span" sx={{ color: own.text }}>
            {minus(why && ` · ${why}`)}
          </Box>
        </Typography>
        <Typography noWrap sx={{ fontSize: 11.5, lineHeight: '15px', color: own.quiet }} title={minus(does)}>
          {minus(does)}
        </Typography>
      </Box>
      {step && (
        <>
          {step.choices.length > 1 && (
            <Button
              size="small"
              aria-haspopup="menu"
              data-testid="next-others"
              onClick={(event) => setOthers(event.currentTarget)}
              sx={{ flexShrink: 0, fontSize: 12, minWidth: 0 }}>
              or …
            </Button>
          )}
          <ButtonBase
            data-testid="next-button"
            disabled={doing}
            onClick={press}
            sx={{
              flexShrink: 0,
              height: 30,
              pl: 2.25,
              pr: 2,
              fontSize: 13,
              fontWeight: 600,
              maxWidth: 300,
              whiteSpace: 'nowrap',
              bgcolor: doing ? own.line : own.clay,
              color: doing ? own.quiet : own.onClay,
              clipPath: 'polygon(0 0, calc(100% - 9px) 0, 100% 100%, 9px 100%)',
            }}>
            {planned.button}
            <Box component="span" aria-hidden sx={{ ml: 1, fontSize: 11 }}>
              Enter
            </Box>
          </ButtonBase>
        </>
      )}
      <Button
        size="small"
        variant="outlined"
        onClick={open}
        data-testid="open-plan"
        title="All steps of the job"
        sx={{ flexShrink: 0, py: 0.1, fontSize: 12 }}>
        {`${done} of ${plan.steps.length}`}
      </Button>
      <Others anchor={others} step={step} onClose={() => setOthers(null)} onTake={take} />
    </Box>
  );
}

interface OthersProps {
  anchor: HTMLElement | null;
  step: Step | undefined;
  onClose: () => void;
  onTake: (choice: StepChoice) => void;
}

/** The choices of a step besides the one that is advised. */
function Others({ anchor, step, onClose, onTake }: OthersProps) {
  return (
    // What was chosen is done: Enter goes on with the step after it, rather than open the choices again.
    <Menu
      anchorEl={anchor}
      open={!!anchor && !!step}
      disableRestoreFocus
      onClose={() => {
        onClose();
        anchor?.focus();
      }}
      transitionDuration={0}>
      {step?.choices.slice(1).map((one) => (
        <MenuItem
          key={one.name}
          dense
          onClick={() => {
            onClose();
            onTake(one);
          }}>
          {one.name}
          {one.says && (
            <Typography component="span" color="text.secondary" sx={{ fontSize: 12, ml: 1 }}>
              {one.says}
            </Typography>
          )}
        </MenuItem>
      ))}
    </Menu>
  );
}
