import fc from 'fast-check';

// The same cases each time, so that a run says something of the change and not of chance; FC_SEED=$RANDOM looks further.
fc.configureGlobal({ seed: Number(process.env.FC_SEED ?? 1987) });
