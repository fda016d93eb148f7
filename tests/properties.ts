import fc from 'fast-check';

// Cases are drawn anew for each commit and are the same each time one commit is tested: what fails can be seen to fail again.
fc.configureGlobal({ seed: Number.parseInt(process.env.PROPERTY_SEED ?? '1', 16) });
