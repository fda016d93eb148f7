export interface Message {
  readonly text: string;
  readonly bad: boolean;
}

/** What came of something that was just done; problems are spoken at once. */
export function Said({ message }: { message: Message | undefined }) {
  if (!message?.text) return null;
  return (
    <p role={message.bad ? 'alert' : 'status'} className={`mt-1 whitespace-pre-line text-sm ${message.bad ? 'text-error' : ''}`}>
      {message.text}
    </p>
  );
}
