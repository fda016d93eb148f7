import type { APIRoute } from 'astro';
import { tus } from '@/server/media/uploads.ts';

/** Resumable upload by the tus protocol; an episode is made of a finished one with POST /api/episodes. */
export const ALL: APIRoute = ({ request }) => tus().handleWeb(request);
