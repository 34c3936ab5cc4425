import { memo, type ComponentType } from 'react';
import type { Stage } from '../api/types';
import { DriversPanel } from './drivers/DriversPanel';
import { DriversPlots } from './drivers/DriversPlots';
import { HandoverPanel, HandoverPlots } from './handover/Handover';
import type { StageProps } from './props';
import { ProofPanel, ProofPlots } from './proof/Proof';
import { RigPanel } from './rig/RigPanel';
import { RigPlots } from './rig/RigPlots';
import { SeamsPanel } from './seams/SeamsPanel';
import { SeamsPlots } from './seams/SeamsPlots';
import { SourcePanel } from './source/SourcePanel';
import { SourcePlots } from './source/SourcePlots';
import { VoicePanel } from './voice/VoicePanel';
import { VoicePlots } from './voice/VoicePlots';

interface Shown {
  Plots: ComponentType<StageProps>;
  Panel: ComponentType<StageProps>;
}

/** They are rendered anew with the project, the selection or what they ask the window's state for. */
const shown = (Plots: ComponentType<StageProps>, Panel: ComponentType<StageProps>): Shown => ({
  Plots: memo(Plots),
  Panel: memo(Panel),
});

export const STAGES: Record<Stage, Shown> = {
  rig: shown(RigPlots, RigPanel),
  source: shown(SourcePlots, SourcePanel),
  drivers: shown(DriversPlots, DriversPanel),
  seams: shown(SeamsPlots, SeamsPanel),
  voice: shown(VoicePlots, VoicePanel),
  proof: shown(ProofPlots, ProofPanel),
  handover: shown(HandoverPlots, HandoverPanel),
};
