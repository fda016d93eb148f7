import { type ReactNode, useRef } from 'react';

interface Props {
  /** name of the hidden field, for those who do not see the button */
  readonly label: string;
  readonly accept: string;
  readonly className?: string;
  readonly onFile: (file: File) => void;
  readonly children: ReactNode;
}

/** A button that asks for a file. */
export function FileButton({ label, accept, className = 'btn btn-xs', onFile, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) onFile(file);
        }}
      />
      <button type="button" className={className} onClick={() => input.current?.click()}>
        {children}
      </button>
    </>
  );
}
