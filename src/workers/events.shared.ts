import { readStream } from './eventStream.ts';

/** The one stream of events of a browser, handed on to all tabs. It ends with the last of them. */
const ports: MessagePort[] = [];
(self as unknown as { onconnect: (event: MessageEvent) => void }).onconnect = ({ ports: [port] }) => {
  if (port) ports.push(port);
};
readStream((event) => {
  for (const port of ports) port.postMessage(event);
});
