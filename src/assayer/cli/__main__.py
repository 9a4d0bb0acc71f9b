from assayer.cli import main

main()
