"""Values at times: the graph of parameters, the sampler, its cache, and frame tables."""
