"""Values over (element, time): the graph of parameters, the sampler and its cache."""
