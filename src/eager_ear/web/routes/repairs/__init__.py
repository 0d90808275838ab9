"""Routes after the call: offer, plan, proof, papers, bench sums."""
