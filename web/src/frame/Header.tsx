/** One line: mark, project and its save state, the stages, the processor, undo, redo, theme, help. */
import DarkMode from '@mui/icons-material/DarkModeOutlined';
import School from '@mui/icons-material/SchoolOutlined';
import HelpOutline from '@mui/icons-material/HelpOutlineOutlined';
import LightMode from '@mui/icons-material/LightModeOutlined';
import Redo from '@mui/icons-material/RedoOutlined';
import Undo from '@mui/icons-material/UndoOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import type { Stage } from '../api/types';
import { STAGE_LIST } from '../stages/list';
import { usePick } from '../state/window';
import type { Action } from '../stages/common/action';
import type { Sheet } from './actions';
import { PracticeMenu } from './PracticeMenu';
import type { Work } from '../state/project';

export function Mark() {
  const { own } = useTheme();
  return (
    <svg width={46} height={16} aria-hidden>
      {(['sub', 'midbass', 'mid', 'tweeter'] as const).map((kind, n) => (
        <polygon
          key={kind}
          points={`${n * 10.5},0 ${n * 10.5 + 10},0 ${n * 10.5 + 14},16 ${n * 10.5 + 4},16`}
          fill={own.ways[kind]}
        />
      ))}
    </svg>
  );
}

export function Header({
  work,
  go,
  open,
  actions,
}: {
  work: Work;
  go: (stage: Stage) => void;
  open: (sheet: Sheet) => void;
  actions: Action[];
}) {
  const { project, stage } = work;
  const { own } = useTheme();
  const { draft, linked, mode, set } = usePick('draft', 'linked', 'mode', 'set');
  const [practice, setPractice] = useState<HTMLElement | null>(null);
  const troubled =
    project.rig.practice !== null &&
    Object.entries(project.rig.practice).some(([name, value]) =>
      name === 'plugged' ? value !== 'microphone' : value === true,
    );
  const run = (id: string) => actions.find((one) => one.id === id)?.run();
  const unsent = project.link.unsent.length;
  const muted = project.link.all_muted;
  const state = !linked ? 'no server' : draft.length ? 'not kept yet' : 'saved';
  const linkedTo = muted ? 'Processor muted' : 'Processor linked';
  const processor = project.link.by_hand
    ? `Typed by hand · ${unsent ? `${unsent} to type` : 'all typed'}`
    : `${linkedTo} · ${unsent ? `${unsent} unsent` : 'all sent'}`;
  const flip = () => {
    const next = mode === 'dark' ? 'light' : 'dark';
    localStorage.setItem('imbrix-mode', next);
    set({ mode: next });
  };
  return (
    <Box
      component="header"
      sx={{
        gridColumn: '1 / -1',
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        px: 1.75,
        bgcolor: 'background.paper',
        borderBottom: 1,
        borderColor: 'divider',
        minWidth: 0,
      }}>
      <Mark />
      <Typography
        component="h1"
        sx={{ fontSize: 19, fontWeight: 600, '@media (max-width: 1150px)': { display: 'none' } }}>
        Imbrix
      </Typography>
      <ButtonBase
        onClick={() => open('journal')}
        title="Revisions of the project, other projects, the system"
        data-testid="project"
        sx={{ textAlign: 'left', display: 'block', px: 0.5, borderRadius: 1, minWidth: 0, flexShrink: 1 }}>
        <Typography noWrap sx={{ fontSize: 13, fontWeight: 600, lineHeight: '18px' }}>
          {project.name}
        </Typography>
        <Typography noWrap color="text.secondary" data-testid="save-state" sx={{ fontSize: 11, lineHeight: '15px' }}>
          {`revision ${project.revision.number}` +
            `${project.revision.name ? ` “${project.revision.name}”` : ''} · ${state}`}
        </Typography>
      </ButtonBase>
      <Box component="nav" aria-label="Stages" sx={{ display: 'flex', ml: 'auto', gap: '3px' }}>
        {STAGE_LIST.map((one) => {
          const here = one.id === stage;
          return (
            <ButtonBase
              key={one.id}
              onClick={() => go(one.id)}
              aria-current={here ? 'page' : undefined}
              data-testid={`stage-${one.id}`}
              sx={{
                display: 'block',
                textAlign: 'left',
                pl: 2,
                pr: 1,
                height: 34,
                minWidth: { xs: 68, lg: 86 },
                bgcolor: here ? own.clay : own.raised,
                color: here ? own.onClay : 'text.primary',
                clipPath: 'polygon(0 0, calc(100% - 9px) 0, 100% 100%, 9px 100%)',
              }}>
              <Typography sx={{ fontSize: 12.5, fontWeight: 600, lineHeight: '16px' }}>{one.name}</Typography>
              <Typography noWrap sx={{ fontSize: 10.5, lineHeight: '13px', color: here ? 'inherit' : own.quiet }}>
                {project.stages[one.id]}
              </Typography>
            </ButtonBase>
          );
        })}
      </Box>
      <ButtonBase
        onClick={() => open('unsent')}
        data-testid="processor"
        sx={{ fontSize: 12, px: 1.25, height: 30, borderRadius: 4, bgcolor: own.ground, gap: 1, flexShrink: 0 }}>
        <Box
          component="span"
          sx={{ width: 9, height: 9, borderRadius: '50%', bgcolor: muted || unsent ? own.clay : own.good }}
        />
        {processor}
      </ButtonBase>
      <Box sx={{ display: 'flex', flexShrink: 0 }}>
        <Tooltip title={troubled ? 'Practice: something is switched on' : 'Practice'}>
          <IconButton
            size="small"
            aria-label="Practice"
            data-testid="practice"
            onClick={(event) => setPractice(event.currentTarget)}
            sx={{ color: troubled ? own.clayText : undefined }}>
            <School fontSize="small" />
          </IconButton>
        </Tooltip>
        <Tooltip title="Undo (Ctrl Z)">
          <span>
            <IconButton
              size="small"
              aria-label="Undo"
              disabled={!project.revision.can_undo}
              onClick={() => run('undo')}>
              <Undo fontSize="small" />
            </IconButton>
          </span>
        </Tooltip>
        <Tooltip title="Redo (Ctrl Shift Z)">
          <span>
            <IconButton
              size="small"
              aria-label="Redo"
              disabled={!project.revision.can_redo}
              onClick={() => run('redo')}>
              <Redo fontSize="small" />
            </IconButton>
          </span>
        </Tooltip>
        <Tooltip title={mode === 'dark' ? 'Light' : 'Dark'}>
          <IconButton size="small" aria-label={mode === 'dark' ? 'Light theme' : 'Dark theme'} onClick={flip}>
            {mode === 'dark' ? <LightMode fontSize="small" /> : <DarkMode fontSize="small" />}
          </IconButton>
        </Tooltip>
        <Tooltip title="Keys (?)">
          <IconButton size="small" aria-label="Show the keys" onClick={() => open('keys')}>
            <HelpOutline fontSize="small" />
          </IconButton>
        </Tooltip>
      </Box>
      <PracticeMenu work={work} anchor={practice} onClose={() => setPractice(null)} />
    </Box>
  );
}
