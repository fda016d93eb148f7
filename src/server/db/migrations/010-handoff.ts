import type { Knex } from 'knex';

/** What is chosen about handing an episode over, what came back from an editor, and questions to the process that computes. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('episodes', (table) => {
    table.jsonb('handoff').comment('what is chosen about handing over');
    table.jsonb('edited').comment('the timeline that came back last, as it was read');
  });
  await knex.schema.createTable('questions', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.uuid('episode_id').notNullable().references('id').inTable('episodes').onDelete('CASCADE');
    table.text('what').notNullable();
    table.jsonb('about').notNullable();
    table.binary('answer').comment('what came of it, once it was worked out');
    table.jsonb('refused').comment('why nothing came of it');
    table.timestamp('asked_at').notNullable().defaultTo(knex.fn.now());
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('questions');
  await knex.schema.alterTable('episodes', (table) => {
    table.dropColumns('handoff', 'edited');
  });
}
