import { useEffect } from 'react';
import type { CentrePoint as Centre } from '@/core/programme/views.ts';
import { SettingChoice, SettingNumber } from '../episode/review/SettingControl.tsx';
import { settingsShown } from '../episode/review/tuning.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CentrePoint } from './CentrePoint.tsx';

interface Props {
  readonly hasPicture: boolean;
  readonly centre: Centre;
  readonly onCentre: (centre: Centre) => void;
}

/** How one side of a seam goes over into the other, in sound and picture: seen and heard as it plays, rendered, and handed over. */
export function Seams({ hasPicture, centre, onCentre }: Props) {
  const model = useModel();
  const look = useEpisode((s) => settingsShown(s).seamLook);
  const closer = useEpisode((s) => settingsShown(s).closerBy);
  const own = useEpisode((s) => s.decisions.seams.length > 0);
  useEffect(() => model.player.pictures.setCentre(centre), [model, centre]);
  return (
    <>
      <SettingNumber name="crossfade" />
      <SettingChoice name="roomTone" labels={{ none: 'nothing', room: 'the quiet room' }} />
      {hasPicture && (
        <>
          <SettingChoice name="seamLook" labels={{ cut: 'cut', closer: 'closer', dissolve: 'dissolve' }} />
          {(look === 'closer' || own) && <SettingNumber name="closerBy" />}
          {(look === 'dissolve' || own) && <SettingNumber name="dissolveFor" />}
          {(look === 'closer' || own) && <CentrePoint size="source" closer={closer / 100} centre={centre} onChange={onCentre} />}
          <p className="text-xs leading-snug quiet">One seam can look otherwise: step to it and press Shift Y.</p>
        </>
      )}
    </>
  );
}
