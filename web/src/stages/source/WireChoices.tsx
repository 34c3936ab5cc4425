/** Which inputs of the processor the wires at the two leads go to. */
import type { Source } from '../../api/types';
import { usePick } from '../../state/window';
import { Choice } from '../../ui/Field';
import { Row } from '../../ui/Panel';

export function WireChoices({ source }: { source: Source }) {
  const { sourceWires, set } = usePick('sourceWires', 'set');
  const [first, second] = sourceWires;
  const inputs = source.inputs.map((one) => ({ value: one.number, text: `${one.number} · ${one.name}` }));
  return (
    <Row>
      <Choice
        label="First wire, of input"
        value={first}
        options={inputs}
        onChange={(value) => set({ sourceWires: [value, second === value ? 0 : second] })}
      />
      <Choice
        label="Second wire, of input"
        value={second}
        options={[{ value: 0, text: 'none' }, ...inputs.filter((one) => one.value !== first)]}
        onChange={(value) => set({ sourceWires: [first, value] })}
      />
    </Row>
  );
}
