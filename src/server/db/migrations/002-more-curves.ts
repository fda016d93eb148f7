import type { Knex } from 'knex';

/** Curves that are measured after the levels. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('media', (table) => {
    table.timestamp('speech_at').comment('when the probability of speech was measured');
    table.timestamp('motion_at').comment('when the change of the picture was measured');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('media', (table) => {
    table.dropColumns('speech_at', 'motion_at');
  });
}
