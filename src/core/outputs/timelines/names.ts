/** Names of the timeline formats, apart from the code that writes them. */
export const TIMELINE_NAMES = {
  xml: 'Timeline XML',
  otio: 'OpenTimelineIO',
  edl: 'CMX 3600 EDL',
  csv: 'CSV table',
  json: 'Zetemis JSON',
} as const;
