// SHA-256 (FIPS 180-4) of bytes that come in portions.
#pragma once

#include <memory>
#include <string>

#include "base/bytes.h"

struct evp_md_ctx_st;

namespace dreskel {

// Not thread-safe; `hex()` ends it.
class Sha256 {
  public:
    Sha256();
    ~Sha256();
    void add(Bytes bytes);
    std::string hex();  // 64 lower-case digits

  private:
    std::unique_ptr<evp_md_ctx_st, void (*)(evp_md_ctx_st*)> context_;
};

}  // namespace dreskel
