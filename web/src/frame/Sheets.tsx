/** The sheets over the page, one at a time. They are a chunk of their own, fetched once the page stands. */
import type { Work } from '../state/project';
import { Finder } from './Finder';
import { Journal } from './Journal';
import { KeysHelp } from './KeysHelp';
import { PlanSheet } from './PlanSheet';
import { System } from './System';
import { Unsent } from './Unsent';
import type { Action } from '../stages/common/action';
import type { Sheet } from './actions';
import type { Planned } from './steps';

interface Props {
  sheet: Sheet;
  work: Work;
  actions: Action[];
  planned: Planned;
  open: (sheet: Sheet) => void;
}

export default function Sheets({ sheet, work, actions, planned, open }: Props) {
  const onClose = () => open(null);
  switch (sheet) {
    case 'keys':
      return <KeysHelp actions={actions} onClose={onClose} />;
    case 'finder':
      return <Finder actions={actions} onClose={onClose} />;
    case 'journal':
      return <Journal work={work} onClose={onClose} onSystem={() => open('system')} />;
    case 'system':
      return <System work={work} onClose={onClose} />;
    case 'plan':
      return <PlanSheet planned={planned} onClose={onClose} />;
    case 'unsent':
      return <Unsent work={work} onClose={onClose} />;
    case null:
      return null;
  }
}
