package main

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"net/url"
	"os"
	"strconv"
	"strings"
	"time"
)

// reach is how a server is reached beyond this machine: at which origins, over which TLS.
type reach struct {
	origins     []string
	config      *tls.Config // nil where a proxy does TLS, or nobody else is let in
	fingerprint string      // of a certificate that was made here
	guarded     bool        // somebody has to log in
	proxied     bool        // a proxy does TLS
}

// reachOf says how a server is reached, or why not so: beyond this machine only over TLS, its own or that of a proxy.
func (o options) reachOf(now time.Time) (r reach, err error) {
	ip := net.ParseIP(o.listen)
	if ip == nil {
		return r, fmt.Errorf("listen is %q; allowed: an address such as 127.0.0.1, 192.168.1.20, or 0.0.0.0 for all",
			o.listen)
	}
	if o.origin != "" {
		u, err := url.Parse(o.origin)
		if err != nil || u.Scheme != "https" || u.Host == "" || strings.Trim(u.Path, "/") != "" {
			return r, fmt.Errorf("origin is %q; allowed: where browsers find it, such as https://bench.example.org", o.origin)
		}
		r.origins = []string{"https://" + u.Host}
	}
	r.guarded = !ip.IsLoopback() || o.origin != "" || o.tls
	if (o.cert == "") != (o.key == "") {
		return r, errors.New("cert and key go together: name both files, or neither")
	}
	switch {
	case o.cert != "":
		pair, err := tls.LoadX509KeyPair(o.cert, o.key)
		if err != nil {
			return r, err
		}
		if len(r.origins) == 0 {
			return r, errors.New("with a certificate of yours, origin says for which address it is, such as " +
				"https://bench.example.org")
		}
		r.config, r.guarded = serving(pair), true
	case o.tls:
		pair, made, err := own(strings.TrimSuffix(o.db, ".db"), addresses(ip), now)
		if err != nil {
			return r, err
		}
		r.config, r.fingerprint = serving(pair), fingerprint(made.Raw)
		for _, host := range append(made.DNSNames, addressTexts(made.IPAddresses)...) {
			r.origins = append(r.origins, "https://"+net.JoinHostPort(host, strconv.Itoa(o.port)))
		}
	case !ip.IsLoopback(): // also before a proxy: between it and here others would listen
		return r, fmt.Errorf("listen is %q: beyond this machine only over TLS. Add --tls for a certificate of its own, "+
			"--cert and --key for one of yours; a proxy that does TLS stands on this machine, and --origin says its address",
			o.listen)
	}
	r.proxied = r.guarded && r.config == nil
	return r, nil
}

func serving(pair tls.Certificate) *tls.Config {
	return &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12,
		NextProtos: []string{"h2", "http/1.1"}}
}

// fingerprint is the SHA-256 of a certificate, as browsers show it.
func fingerprint(raw []byte) string {
	sum := sha256.Sum256(raw)
	parts := make([]string, len(sum))
	for i, b := range sum {
		parts[i] = fmt.Sprintf("%02X", b)
	}
	return strings.Join(parts, ":")
}

// addresses are those at which a server that listens on one is found.
func addresses(listen net.IP) []net.IP {
	if !listen.IsUnspecified() {
		return []net.IP{listen, net.IPv4(127, 0, 0, 1)}
	}
	list := []net.IP{net.IPv4(127, 0, 0, 1)}
	found, err := net.InterfaceAddrs()
	if err != nil {
		return list
	}
	for _, a := range found {
		if n, is := a.(*net.IPNet); is && n.IP.IsGlobalUnicast() {
			list = append(list, n.IP)
		}
	}
	return list
}

func addressTexts(list []net.IP) (out []string) {
	for _, ip := range list {
		out = append(out, ip.String())
	}
	return out
}

// certificateFor is how long a certificate of its own holds; renewed is how long before its end a new one is made.
const (
	certificateFor = 397 * 24 * time.Hour // the longest that browsers take
	renewedBefore  = 30 * 24 * time.Hour
)

// own is a certificate that this machine made itself, kept beside the database: a new one where there is none, where it
// is about to end, or where the machine is found at an address that it does not name.
func own(base string, ips []net.IP, now time.Time) (tls.Certificate, *x509.Certificate, error) {
	cert, key := base+".cert.pem", base+".key.pem"
	if pair, err := tls.LoadX509KeyPair(cert, key); err == nil {
		made, err := x509.ParseCertificate(pair.Certificate[0])
		if err == nil && now.Before(made.NotAfter.Add(-renewedBefore)) && names(made, ips) {
			return pair, made, nil
		}
	}
	secret, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return tls.Certificate{}, nil, err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return tls.Certificate{}, nil, err
	}
	hosts := []string{"localhost"}
	if name, err := os.Hostname(); err == nil && name != "" && name != "localhost" {
		hosts = append(hosts, name, name+".local")
	}
	plan := x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Fresh Anvil"},
		NotBefore: now.Add(-time.Hour), NotAfter: now.Add(certificateFor), KeyUsage: x509.KeyUsageDigitalSignature,
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true,
		DNSNames: hosts, IPAddresses: ips}
	raw, err := x509.CreateCertificate(rand.Reader, &plan, &plan, &secret.PublicKey, secret)
	if err != nil {
		return tls.Certificate{}, nil, err
	}
	hidden, err := x509.MarshalECPrivateKey(secret)
	if err != nil {
		return tls.Certificate{}, nil, err
	}
	if err := errors.Join(
		os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: hidden}), 0o600),
		os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: raw}), 0o600)); err != nil {
		return tls.Certificate{}, nil, err
	}
	pair, err := tls.LoadX509KeyPair(cert, key)
	if err != nil {
		return pair, nil, err
	}
	made, err := x509.ParseCertificate(raw)
	return pair, made, err
}

// names says whether a certificate is for all of these addresses.
func names(c *x509.Certificate, ips []net.IP) bool {
	for _, ip := range ips {
		if c.VerifyHostname(ip.String()) != nil {
			return false
		}
	}
	return true
}
