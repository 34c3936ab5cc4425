import type { ComponentType } from 'react';
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

export const STAGES: Record<Stage, { Plots: ComponentType<StageProps>; Panel: ComponentType<StageProps> }> = {
  rig: { Plots: RigPlots, Panel: RigPanel },
  source: { Plots: SourcePlots, Panel: SourcePanel },
  drivers: { Plots: DriversPlots, Panel: DriversPanel },
  seams: { Plots: SeamsPlots, Panel: SeamsPanel },
  voice: { Plots: VoicePlots, Panel: VoicePanel },
  proof: { Plots: ProofPlots, Panel: ProofPanel },
  handover: { Plots: HandoverPlots, Panel: HandoverPanel },
};
