"""The steps of a job, made from its facts: ready, uncover, at the holes, refit, prove."""
