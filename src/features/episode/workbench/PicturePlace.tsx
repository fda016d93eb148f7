import { ExternalLink, Maximize2, Minimize2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { createPortal } from 'react-dom';
import { AngleBar } from '../../order/AngleBar.tsx';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { CommandButton } from './CommandButton.tsx';
import { Picture } from './Picture.tsx';
import { passKeysFrom } from './useKeys.ts';

/** Where the picture stands: over the trays, over half of the page, or in a window of its own. */
export function PicturePlace() {
  const place = useEpisode((s) => s.picture);
  const hasPicture = useEpisode((s) => s.detail?.recordings.some(({ facts }) => facts.video !== undefined) ?? false);
  if (!hasPicture) return <Picture />;
  if (place === 'window') return <OwnWindow />;
  return (
    <div className={`relative shrink-0 bg-black ${place === 'tray' ? 'max-sm:hidden' : ''}`} data-picture={place}>
      <Picture />
      <div className="absolute top-1 right-1 flex gap-1">
        <CommandButton id="picture" iconOnly className="btn btn-xs btn-square">
          {place === 'half' ? <Minimize2 size={14} aria-hidden /> : <Maximize2 size={14} aria-hidden />}
        </CommandButton>
        <CommandButton id="picture-window" iconOnly className="btn btn-xs btn-square">
          <ExternalLink size={14} aria-hidden />
        </CommandButton>
      </div>
      <AngleBar />
    </div>
  );
}

/** The picture in a window of its own, in which the keys work as they do here. */
function OwnWindow() {
  const model = useModel();
  const title = useEpisode((s) => s.detail?.title ?? '');
  const [room, setRoom] = useState<HTMLElement>();
  useEffect(() => {
    const own = window.open('', `zetemis-picture-${model.id}`, 'popup,width=960,height=560');
    if (!own) {
      // The browser lets no window open: half of the page is next best.
      model.show({ picture: 'half' });
      return;
    }
    own.document.title = `${title} · picture`;
    const { theme } = document.documentElement.dataset;
    if (theme) own.document.documentElement.dataset.theme = theme;
    for (const style of document.querySelectorAll('style, link[rel="stylesheet"]'))
      own.document.head.append(own.document.importNode(style, true));
    own.document.body.replaceChildren();
    own.document.body.style.background = 'black';
    const end = passKeysFrom(own);
    const back = () => model.show({ picture: 'tray' });
    own.addEventListener('pagehide', back);
    setRoom(own.document.body);
    return () => {
      end();
      own.removeEventListener('pagehide', back);
      own.close();
    };
  }, [model, title]);
  return (
    <>
      {room && createPortal(<Picture />, room)}
      <p className="flex items-center justify-between gap-2 border-base-300 border-b px-3 py-2 text-sm">
        The picture has a window of its own.
        <CommandButton id="picture">Bring it back</CommandButton>
      </p>
      <AngleBar />
    </>
  );
}
