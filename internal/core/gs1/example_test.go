package gs1_test

import (
	"fmt"

	"sodrik/internal/core/gs1"
)

func ExampleLink() {
	elements, err := gs1.Brackets("(01)09521234500018(10)A1209(17)270331")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(gs1.Link("id.marrowby.example", elements))
	// Output: https://id.marrowby.example/01/09521234500018/10/A1209?17=270331 <nil>
}

func ExampleCheck() {
	elements, _ := gs1.Brackets("(10)A1209")
	for _, fault := range gs1.Check(elements) {
		fmt.Println(fault)
	}
	// Output: (10) stands alone; BATCH/LOT goes only with (01) GTIN or (02) or (03) or (8006) or (8026)
}

func ExampleCheckDigit() {
	fmt.Printf("%c\n", gs1.CheckDigit("0952123450001"))
	// Output: 8
}
