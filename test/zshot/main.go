package main

import (
	"fmt"
	"os"
	"strconv"
	"time"

	"arvel/test/drive"

	"github.com/go-rod/rod/lib/proto"
)

// usage: shot FOLDER OUT WIDTH HEIGHT PATH... (js after @@)
func main() {
	dir, out := os.Args[1], os.Args[2]
	w, _ := strconv.Atoi(os.Args[3])
	h, _ := strconv.Atoi(os.Args[4])
	p, err := drive.Start("serve", dir, "--data", os.Getenv("DATA"), "--port", "0")
	if err != nil {
		panic(err)
	}
	defer p.Stop()
	b, err := drive.Browser()
	if err != nil {
		panic(err)
	}
	defer b.Close()
	page := b.MustPage("")
	page.MustSetViewport(w, h, 1, false)
	for i, path := range os.Args[5:] {
		page.MustNavigate(p.Enter("folder/1/" + path))
		page.MustWaitLoad()
		time.Sleep(9000 * time.Millisecond)
		if js := os.Getenv("JS"); js != "" {
			v, err := page.Eval(js)
			fmt.Println(path, v, err)
			time.Sleep(1200 * time.Millisecond)
		}
		png, err := page.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
		if err != nil {
			panic(err)
		}
		os.WriteFile(fmt.Sprintf("%s-%d.png", out, i), png, 0o644)
	}
}
