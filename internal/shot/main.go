package main
import ("os";"time";"strconv";"fmt";"github.com/go-rod/rod";"github.com/go-rod/rod/lib/launcher";"github.com/go-rod/rod/lib/proto")
func main(){
 w,h:=1280,800
 if len(os.Args)>4 { w,_=strconv.Atoi(os.Args[4]) }
 u:=launcher.New().Bin("/usr/bin/chromium").Leakless(false).Headless(true).NoSandbox(true).Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").Set("disable-sync").MustLaunch()
 b:=rod.New().ControlURL(u).MustConnect(); defer b.MustClose()
 p:=b.MustPage(); 
 go p.EachEvent(func(e *proto.RuntimeConsoleAPICalled){ for _,a:=range e.Args { fmt.Println("console:",a.Value, a.Description)} }, func(e *proto.RuntimeExceptionThrown){fmt.Println("exception:",e.ExceptionDetails.Text, e.ExceptionDetails.Exception.Description)}, func(e *proto.LogEntryAdded){fmt.Println("log:",e.Entry.Text,e.Entry.URL)})()
 (proto.LogEnable{}).Call(p)
 p.MustSetViewport(w,h,1,false)
 p.MustNavigate(os.Args[1]).MustWaitLoad()
 time.Sleep(1200*time.Millisecond)
 if len(os.Args)>3 && os.Args[3]!="" { r,err:=p.Eval(os.Args[3]); if err!=nil{fmt.Println(err)} else {fmt.Println(r.Value)}; time.Sleep(1500*time.Millisecond) }
 p.MustScreenshot(os.Args[2])
}
