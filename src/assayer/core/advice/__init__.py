"""What trials tell: grades by trait, what each change did, and what to try next."""
