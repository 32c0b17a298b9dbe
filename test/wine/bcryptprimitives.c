// The one function of bcryptprimitives.dll that programs made by Go need and wine 8 lacks: it fills a buffer with random bytes.
#include <windows.h>

BOOLEAN NTAPI SystemFunction036(PVOID buffer, ULONG length);

__declspec(dllexport) BOOLEAN WINAPI ProcessPrng(PBYTE buffer, SIZE_T length) {
	return SystemFunction036(buffer, (ULONG)length);
}
