import { listen } from '../../events.ts';
import { EpisodeModel } from './model.ts';

// The page imports this file by itself: what an episode needs is on its way before anything that shows it has been loaded.
let opened = open(location.pathname.split('/').at(-1) as string);

function open(id: string): EpisodeModel {
  const model = new EpisodeModel(id);
  void model.refresh();
  listen((event) => {
    if (event.type === 'missed') void model.refresh();
    else if (event.type === 'job') model.takeJob(event.job);
    else if (event.type === 'sets' || event.type === 'cut' || event.episodeId !== id) return;
    else if (event.type === 'decisions') void model.catchUp().catch(() => {});
    else void model.refresh();
  });
  return model;
}

/** The episode of this page, its material on the way. */
export function openEpisode(id: string): EpisodeModel {
  if (opened.id !== id) opened = open(id);
  return opened;
}
