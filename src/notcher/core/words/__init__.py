"""Notes, places, techniques, doubts and findings in sentences: values in, words out, in the naming chosen."""
