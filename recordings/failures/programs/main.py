import sys
from berths import plan
plan.run(int(sys.argv[1]))
