"""After the call: offer, plan, proof, service mode, papers, dates."""
