/** What the stand-in's jig is clipped to: a person does this with their hands, here it is a choice. */
import { client, settled } from '../../api/client';
import type { Practice } from '../../api/types';
import { Choice, NumberField } from '../../ui/Field';
import { Row, Section } from '../../ui/Panel';
import type { Work } from '../../state/project';

const LOADINGS = [
  { value: 'as it is', text: 'as it is' },
  { value: 'mass', text: 'with a mass' },
  { value: 'box', text: 'in a tight box' },
  { value: 'leaking box', text: 'in a leaking box' },
] as const;

export function Clips({ work }: { work: Work }) {
  const { rig, layout } = work.project;
  const { practice } = rig;
  if (!practice) return null;
  const put = (values: Partial<Practice>) =>
    void work.onRig(() => settled(client.PUT('/api/rig/practice', { body: { ...practice, ...values } as never })));
  const options = [
    { value: 'nothing', text: 'nothing' },
    { value: 'joined', text: 'each other' },
    { value: 'resistor', text: 'the known resistor' },
    ...(practice.clips === 'network' ? [{ value: 'network', text: 'the network of the parts box' }] : []),
    ...layout.drivers.map((one) => ({ value: `output-${one.output}`, text: one.name })),
  ];
  const held = practice.clips === 'driver' ? `output-${practice.clipped_output}` : practice.clips;
  const hold = (value: string) =>
    put(
      value.startsWith('output-')
        ? { clips: 'driver', clipped_output: Number(value.slice(7)) }
        : { clips: value as Practice['clips'] },
    );
  return (
    <Section title="The stand-in’s clips hold" aside="simulated">
      <Row>
        <Choice label="The clips hold" hideLabel value={held} options={options} onChange={hold} />
        {practice.clips === 'driver' && (
          <Choice
            label="The clipped driver is"
            hideLabel
            value={practice.loading}
            options={[...LOADINGS]}
            onChange={(value) => put({ loading: value })}
          />
        )}
        {practice.clips === 'driver' && practice.loading !== 'as it is' && (
          <NumberField
            label="Load of the clipped driver"
            hideLabel
            unit={practice.loading === 'mass' ? 'g' : 'l'}
            value={practice.loading_amount}
            step={1}
            min={0.1}
            max={1000}
            onCommit={(value) => put({ loading_amount: value })}
          />
        )}
      </Row>
    </Section>
  );
}
