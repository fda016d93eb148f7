import type { Knex } from 'knex';

export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('media', (table) => {
    table.text('id').primary().comment('SHA-256 of the content; of size, date and samples for a linked file');
    table.bigInteger('bytes').notNullable();
    table.jsonb('facts').notNullable();
    table.text('linked_path').comment('relative to the media folder; null for a file in the store');
    table.double('duration').notNullable();
    table.timestamp('measured_at');
    table.text('proxy').notNullable().comment('none, pending, ready');
    table.timestamp('created_at').notNullable().defaultTo(knex.fn.now());
  });
  await knex.schema.createTable('episodes', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.text('title').notNullable();
    table.text('upload_id').unique().comment('the upload it came from, so that asking twice makes one episode');
    table.bigInteger('last_seq').notNullable().defaultTo(0);
    table.integer('words_version').notNullable().defaultTo(0);
    table.timestamp('created_at').notNullable().defaultTo(knex.fn.now());
  });
  await knex.schema.createTable('recordings', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.uuid('episode_id').notNullable().references('id').inTable('episodes').onDelete('CASCADE');
    table.text('media_id').notNullable().references('id').inTable('media');
    table.text('file_name').notNullable();
    table.integer('position').notNullable().defaultTo(0);
    table.unique(['episode_id', 'position']);
    table.index('media_id');
  });
  await knex.schema.createTable('transcripts', (table) => {
    table.uuid('episode_id').primary().references('id').inTable('episodes').onDelete('CASCADE');
    table.jsonb('columns').notNullable();
  });
  await knex.schema.createTable('decisions', (table) => {
    table.uuid('episode_id').notNullable().references('id').inTable('episodes').onDelete('CASCADE');
    table.bigInteger('seq').notNullable();
    table.uuid('event_id').notNullable();
    table.jsonb('event').notNullable();
    table.timestamp('at').notNullable().defaultTo(knex.fn.now());
    table.primary(['episode_id', 'seq']);
    table.unique(['episode_id', 'event_id']);
  });
  await knex.schema.createTable('jobs', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.text('kind').notNullable();
    table.text('media_id').notNullable().references('id').inTable('media').onDelete('CASCADE');
    table.text('state').notNullable().defaultTo('queued');
    table.float('progress').notNullable().defaultTo(0);
    table.text('error');
    table.timestamp('queued_at').notNullable().defaultTo(knex.fn.now());
    table.timestamp('started_at');
    table.index(['media_id', 'kind']);
  });
  await knex.schema.createTable('queue_workers', (table) => {
    table.text('worker_id').primary();
    table.timestamp('seen_at').notNullable().defaultTo(knex.fn.now());
  });
}

export async function down(knex: Knex): Promise<void> {
  for (const name of ['queue_workers', 'jobs', 'decisions', 'transcripts', 'recordings', 'episodes', 'media'])
    await knex.schema.dropTable(name);
}
