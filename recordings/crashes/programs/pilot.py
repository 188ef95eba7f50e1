import sys, faulthandler
class NoPilot(Exception): pass
def visit(n): return visit(n+1)
def assign(n):
    try: {}['x']
    except KeyError as e: raise NoPilot(f'no pilot for call {n}') from e
k=sys.argv[1]
if k=='throw': assign(7)
if k=='deep': visit(0)
if k=='oom': x=[0]*(10**13)
if k=='segv': faulthandler.enable(); faulthandler._sigsegv()
if k=='thread':
    import threading; t=threading.Thread(target=assign,args=(9,),name='pilot-2'); t.start(); t.join(); sys.exit(2)
