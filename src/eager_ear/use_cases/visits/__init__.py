"""What happens in a visit: writing in its diary, folding it, bringing bytes, cases in and out."""
