#include "base/sha256.h"

#include <openssl/evp.h>

#include <array>
#include <string_view>

namespace dreskel {

Sha256::Sha256() : context_(EVP_MD_CTX_new(), EVP_MD_CTX_free) {
    EVP_DigestInit_ex(context_.get(), EVP_sha256(), nullptr);
}

Sha256::~Sha256() = default;

void Sha256::add(Bytes bytes) {
    EVP_DigestUpdate(context_.get(), bytes.data(), bytes.size());
}

std::string Sha256::hex() {
    std::array<unsigned char, 32> digest{};
    EVP_DigestFinal_ex(context_.get(), digest.data(), nullptr);
    std::string text;
    for (const auto byte : digest) {
        constexpr std::string_view digits = "0123456789abcdef";
        text.push_back(digits[byte >> 4]);
        text.push_back(digits[byte & 15]);
    }
    return text;
}

}  // namespace dreskel
