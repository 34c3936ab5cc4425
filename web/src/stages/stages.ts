import type { ComponentType } from 'react';
import type { Stage } from '../api/types';
import { DriversPanel, DriversPlots } from './Drivers';
import { HandoverPanel, HandoverPlots } from './Handover';
import type { StageProps } from './props';
import { ProofPanel, ProofPlots } from './Proof';
import { SeamsPanel, SeamsPlots } from './Seams';
import { VoicePanel, VoicePlots } from './Voice';

export const STAGES: Record<Stage, { Plots: ComponentType<StageProps>; Panel: ComponentType<StageProps> }> = {
  drivers: { Plots: DriversPlots, Panel: DriversPanel },
  seams: { Plots: SeamsPlots, Panel: SeamsPanel },
  voice: { Plots: VoicePlots, Panel: VoicePanel },
  proof: { Plots: ProofPlots, Panel: ProofPanel },
  handover: { Plots: HandoverPlots, Panel: HandoverPanel },
};
