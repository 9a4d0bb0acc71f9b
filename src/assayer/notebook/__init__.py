"""What a Python notebook uses, one function for each command that computes, with the names of the command line."""

from assayer.notebook.comparing import Comparison as Comparison
from assayer.notebook.comparing import compare as compare
from assayer.notebook.findings import agreement as agreement
from assayer.notebook.findings import claim as claim
from assayer.notebook.findings import effects as effects
from assayer.notebook.findings import statements as statements
from assayer.notebook.findings import sweep as sweep
from assayer.notebook.reducing import reduce as reduce
from assayer.notebook.reducing import reduce_file as reduce_file
from assayer.notebook.reducing import reduce_recording as reduce_recording
