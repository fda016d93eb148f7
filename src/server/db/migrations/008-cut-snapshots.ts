import type { Knex } from 'knex';

/** The cut of each episode as it was last computed, with what it was computed from. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('cut_snapshots', (table) => {
    table.uuid('episode_id').primary().references('id').inTable('episodes').onDelete('CASCADE');
    table.text('basis').notNullable().comment('decisions, words and measures that it was computed from');
    table.text('made_by').notNullable().comment('digest of the program that computed it');
    table.jsonb('summary').notNullable();
    table.binary('shown').notNullable().comment('the cut as pages show it: JSON, gzip');
    table.binary('whole').notNullable().comment('the cut with its reasons, and the words it was made from: JSON, gzip');
    table.timestamp('made_at').notNullable().defaultTo(knex.fn.now());
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('cut_snapshots');
}
