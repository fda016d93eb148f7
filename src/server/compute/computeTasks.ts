import { z } from 'zod';
import { isHopeless, noteTrouble } from '../episodes/cutTrouble.ts';
import { refuseImport } from '../episodes/wordImports.ts';
import { log } from '../log.ts';
import { refuseQuestion } from './answers.ts';
import { BeyondBounds, type Compute } from './computations.ts';

const aboutEpisode = z.object({ episodeId: z.uuid() });
const aboutQuestion = z.object({ questionId: z.uuid() });
const aboutImport = z.object({ importId: z.uuid() });

/** The queue's tasks that compute. They have a slot of their own: measuring, which takes long, must not keep them waiting. */
export const computeTasks = (compute: Compute) => ({
  cut: async (data: unknown): Promise<void> => {
    const { episodeId } = aboutEpisode.parse(data);
    if (await isHopeless(episodeId)) return;
    await compute('cut', episodeId).catch(async (error) => {
      log.error({ episodeId, error: (error as Error).stack }, 'the cut could not be worked out');
      if (!(error instanceof BeyondBounds)) throw error;
      await noteTrouble(episodeId, error.message);
    });
  },

  question: async (data: unknown): Promise<void> => {
    const { questionId } = aboutQuestion.parse(data);
    await compute('question', questionId).catch(async (error) => {
      log.error({ questionId, error: (error as Error).stack }, 'a question could not be answered');
      await refuseQuestion(questionId, error instanceof BeyondBounds ? `This is too much. ${error.message}` : undefined);
    });
  },

  words: async (data: unknown): Promise<void> => {
    const { importId } = aboutImport.parse(data);
    await compute('words', importId).catch(async (error) => {
      log.error({ importId, error: (error as Error).stack }, 'the words could not be taken');
      await refuseImport(
        importId,
        error instanceof BeyondBounds ? `These words are too much to be put in their places. ${error.message}` : undefined,
      );
    });
  },
});
