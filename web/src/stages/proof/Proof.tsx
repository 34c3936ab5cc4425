/** Proof: what was predicted against what is measured, where the ear puts it, and how it sounds. */
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { hasSides } from '../../state/system';
import { usePick } from '../../state/window';
import { PanelTitle } from '../../ui/Panel';
import type { StageProps } from '../props';
import { keysFree } from '../common/keysFree';
import { ImagePlots } from './ImageArc';
import { ImagePanel } from './ImagePanel';
import { ListenPanel } from './ListenPanel';
import { ListenPlots } from './ListenPlots';
import { MeasurePanel, MeasurePlots } from './Measure';

const PARTS = [
  ['measure', 'Measure'],
  ['image', 'Image'],
  ['listen', 'Listen'],
] as const;

/** The part that is open; where there are no two sides, there is no image either. */
function usePart({ work }: StageProps) {
  const { proofPart } = usePick('proofPart');
  return proofPart === 'image' && !hasSides(work.project) ? 'measure' : proofPart;
}

export function ProofPlots(props: StageProps) {
  const proofPart = usePart(props);
  if (proofPart === 'image') return <ImagePlots {...props} />;
  return proofPart === 'listen' ? <ListenPlots {...props} /> : <MeasurePlots {...props} />;
}

export function ProofPanel(props: StageProps) {
  const { set } = usePick('set');
  const proofPart = usePart(props);
  const parts = PARTS.filter(([id]) => id !== 'image' || hasSides(props.work.project));
  const { proof } = props.work.project.stages;
  return (
    <>
      <PanelTitle title="Proof" aside={proof === '—' ? 'not recorded yet' : proof} />
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={proofPart}
        aria-label="What to prove it by"
        onPointerUp={keysFree}
        onChange={(_e, value) => value && set({ proofPart: value })}>
        {parts.map(([id, name]) => (
          <ToggleButton key={id} value={id} data-testid={`proof-${id}`} sx={{ py: 0.2, px: 0.5, fontSize: 12.5 }}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {proofPart === 'measure' && <MeasurePanel {...props} />}
      {proofPart === 'image' && <ImagePanel work={props.work} />}
      {proofPart === 'listen' && <ListenPanel work={props.work} />}
    </>
  );
}
