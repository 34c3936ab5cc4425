/** A project as one file: opened here, as a project of its own. */
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { client, settled } from '../api/client';
import { formWith } from '../api/files';
import { FileInput, useFile } from '../ui/FileInput';

const MOST_BYTES = 4_000_000_000;

interface Props {
  onOpened: (slug: string) => void;
}

export function OpenFile({ onOpened }: Props) {
  const file = useFile();
  const [says, setSays] = useState('');
  const [opening, setOpening] = useState(false);
  const open = async (chosen: File) => {
    setOpening(true);
    setSays('');
    try {
      const body = formWith(chosen, {}, MOST_BYTES) as never;
      const { slug } = await settled<{ slug: string }>(client.POST('/api/project-files', { body }));
      onOpened(slug);
    } catch (error) {
      setSays(error instanceof Error ? error.message : String(error));
    }
    setOpening(false);
  };
  return (
    <>
      <Button size="small" disabled={opening} onClick={() => file.ask()} sx={{ py: 0 }}>
        {opening ? 'Opening …' : 'Open a project file'}
      </Button>
      <FileInput file={file} accept=".imbrix" testId="project-file" onBring={(chosen) => void open(chosen)} />
      {says && (
        <Typography
          role="alert"
          data-testid="project-file-says"
          sx={{ fontSize: 12.5, color: (t) => t.own.clayText, textAlign: 'left' }}>
          {says}
        </Typography>
      )}
    </>
  );
}
