import type { Knex } from 'knex';

/** What logs come to, cuts that could not be computed, episodes that can be brought back, and no job twice at a time. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('episodes', (table) => {
    table.integer('log_places').comment('places that all entries of the log speak of; null where nobody has counted yet');
    table.integer('log_words').comment('words that all entries of the log write');
    table.jsonb('cut_trouble').comment('why no cut could be computed, and of what');
    table.timestamp('removed_at').comment('null unless it is to be forgotten after a while');
  });
  await knex.schema.alterTable('decisions', (table) => {
    table.text('by').comment('who decided; null where nobody needs to sign in');
  });
  await knex.schema.createTable('word_imports', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.uuid('episode_id').notNullable().references('id').inTable('episodes').onDelete('CASCADE');
    table.uuid('recording_id').notNullable();
    table.text('text').notNullable();
    table.jsonb('outcome').comment('what came of it, once it was read');
    table.timestamp('asked_at').notNullable().defaultTo(knex.fn.now());
  });
  await knex.schema.alterTable('jobs', (table) => {
    table.integer('tries').notNullable().defaultTo(0).comment('how often it was begun');
  });
  await knex.raw(
    `update jobs set state = 'cancelled' where state in ('queued', 'running') and exists (
       select 1 from jobs other where other.kind = jobs.kind and other.media_id = jobs.media_id and other.options = jobs.options
         and other.state in ('queued', 'running') and (other.queued_at, other.id) < (jobs.queued_at, jobs.id))`,
  );
  await knex.raw(
    "create unique index jobs_one_at_a_time on jobs (kind, media_id, md5(options::text)) where state in ('queued', 'running')",
  );
}

export async function down(knex: Knex): Promise<void> {
  await knex.raw('drop index jobs_one_at_a_time');
  await knex.schema.dropTable('word_imports');
  await knex.schema.alterTable('jobs', (table) => {
    table.dropColumn('tries');
  });
  await knex.schema.alterTable('decisions', (table) => {
    table.dropColumn('by');
  });
  await knex.schema.alterTable('episodes', (table) => {
    table.dropColumns('log_places', 'log_words', 'cut_trouble', 'removed_at');
  });
}
