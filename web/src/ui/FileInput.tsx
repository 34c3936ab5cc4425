/** A hidden input for a file, clicked by a button of any shape. */
import { useRef } from 'react';

/** What a click asks for: kinds of files where they differ from click to click. */
export function useFile() {
  const ref = useRef<HTMLInputElement>(null);
  const ask = (accept?: string) => {
    if (accept) ref.current!.accept = accept;
    ref.current!.click();
  };
  return { ref, ask };
}

interface Props {
  file: ReturnType<typeof useFile>;
  accept?: string;
  testId: string;
  /** Whether further files may be chosen beside the first. */
  multiple?: boolean;
  onBring: (file: File, beside: File[]) => void;
}

export function FileInput({ file, accept, testId, multiple, onBring }: Props) {
  return (
    <input
      ref={file.ref}
      type="file"
      hidden
      multiple={multiple}
      accept={accept}
      data-testid={testId}
      onChange={({ target }) => {
        const [chosen, ...beside] = [...(target.files ?? [])];
        target.value = ''; // so that the same file can be chosen again
        if (chosen) onBring(chosen, beside);
      }}
    />
  );
}
