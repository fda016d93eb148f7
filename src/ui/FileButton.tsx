import { type ReactNode, useRef } from 'react';

interface Props {
  /** name of the hidden field, for those who do not see the button */
  readonly label: string;
  readonly accept: string;
  readonly className?: string;
  readonly multiple?: boolean;
  readonly onFiles: (files: readonly File[]) => void;
  readonly children: ReactNode;
}

/** A button that asks for a file, or for several. */
export function FileButton({ label, accept, className = 'btn btn-xs', multiple = false, onFiles, children }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        multiple={multiple}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) onFiles(files);
        }}
      />
      <button type="button" className={className} onClick={() => input.current?.click()}>
        {children}
      </button>
    </>
  );
}
