using System.Buffers.Binary;
using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;

namespace WarySentinel.Service;

/// <summary>The service's one secret, and the keys drawn from it (HKDF, RFC 5869).</summary>
public sealed class Secrets
{
    private const int NonceBytes = 12;
    private const int TagBytes = 16;
    private const int FeedNameBytes = 20;
    private const int FeedTokenBytes = 36;
    private readonly byte[] ticket;
    private readonly byte[] index;
    private readonly byte[] seal;
    private readonly byte[] keySeal;
    private readonly byte[] origin;
    private readonly byte[] folders;
    private readonly byte[] feeds;

    /// <summary>Reads the secret from the options, or from a file in the data folder that is made on first use.</summary>
    public Secrets(ServiceOptions options)
    {
        var root = options.Secret.Length > 0 ? Convert.FromBase64String(options.Secret) : FromFile(Path.Combine(options.Data, "secret.key"));
        if (root.Length < 32)
        {
            throw new InvalidDataException("The secret must be 32 bytes or more, in Base64.");
        }

        ticket = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "session ticket"u8.ToArray());
        seal = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "known browser"u8.ToArray());
        keySeal = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "protection keys"u8.ToArray());
        origin = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "token to the origin"u8.ToArray());
        folders = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "folder address"u8.ToArray());
        feeds = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "feed address"u8.ToArray());
        index = HKDF.DeriveKey(HashAlgorithmName.SHA256, root, 32, info: "shared password index"u8.ToArray());
    }

    /// <summary>The keyed digest by which a shared password is found.</summary>
    public string IndexOf(string password) => Convert.ToHexStringLower(HMACSHA256.HashData(index, Encoding.UTF8.GetBytes(password)));

    /// <summary>The part of a folder's address that nobody can guess: 128 bits of a keyed digest of its name, in hexadecimal.</summary>
    public string FolderTokenOf(string named) => Convert.ToHexStringLower(HMACSHA256.HashData(folders, Encoding.UTF8.GetBytes(named)).AsSpan(0, 16));

    /// <summary>
    /// The part of a feed's address that nobody can guess: whose it is and which of theirs, with 128 bits of a keyed digest of that; 48 letters (RFC 4648 §5).
    /// </summary>
    public string FeedTokenOf(Guid subscriber, int number)
    {
        Span<byte> bytes = stackalloc byte[FeedNameBytes + 32];
        subscriber.TryWriteBytes(bytes, true, out _);
        BinaryPrimitives.WriteInt32BigEndian(bytes[16..], number);
        HMACSHA256.HashData(feeds, bytes[..FeedNameBytes], bytes[FeedNameBytes..]);
        return Base64Url.EncodeToString(bytes[..FeedTokenBytes]);
    }

    /// <summary>Whose address that is, and which of theirs; null where we never gave it.</summary>
    public (Guid Subscriber, int Number)? ReadFeedToken(string token)
    {
        Span<byte> bytes = stackalloc byte[FeedTokenBytes], digest = stackalloc byte[32];
        if (token.Length != FeedTokenBytes / 3 * 4 || !Base64Url.IsValid(token, out var length) || length != FeedTokenBytes
            || Base64Url.DecodeFromChars(token, bytes) != FeedTokenBytes)
        {
            return null;
        }

        HMACSHA256.HashData(feeds, bytes[..FeedNameBytes], digest);
        return CryptographicOperations.FixedTimeEquals(digest[..(FeedTokenBytes - FeedNameBytes)], bytes[FeedNameBytes..])
            ? (new Guid(bytes[..16], true), BinaryPrimitives.ReadInt32BigEndian(bytes[16..])) : null;
    }

    /// <summary>The seal of a text that a browser keeps for us.</summary>
    public string SealOf(string text) => System.Buffers.Text.Base64Url.EncodeToString(HMACSHA256.HashData(seal, Encoding.UTF8.GetBytes(text)));

    /// <summary>Seals bytes so that only who has the secret can open them (AES-256-GCM, NIST SP 800-38D): nonce, tag, sealed bytes.</summary>
    public byte[] Seal(ReadOnlySpan<byte> plain)
    {
        var bytes = new byte[NonceBytes + TagBytes + plain.Length];
        RandomNumberGenerator.Fill(bytes.AsSpan(0, NonceBytes));
        using var cipher = new AesGcm(keySeal, TagBytes);
        cipher.Encrypt(bytes.AsSpan(0, NonceBytes), plain, bytes.AsSpan(NonceBytes + TagBytes), bytes.AsSpan(NonceBytes, TagBytes));
        return bytes;
    }

    /// <summary>
    /// Opens what <see cref="Seal"/> sealed. Throws <see cref="CryptographicException"/> where it was sealed under another secret, or changed.
    /// </summary>
    public byte[] Unseal(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length < NonceBytes + TagBytes)
        {
            throw new CryptographicException("Too short to be sealed.");
        }

        var plain = new byte[bytes.Length - NonceBytes - TagBytes];
        using var cipher = new AesGcm(keySeal, TagBytes);
        cipher.Decrypt(bytes[..NonceBytes], bytes[(NonceBytes + TagBytes)..], bytes.Slice(NonceBytes, TagBytes), plain);
        return plain;
    }

    /// <summary>The key by which the guarded site is told things (P-256, FIPS 186-5). The caller disposes of it.</summary>
    public ECDsa OriginKey()
    {
        // Any 32 bytes but a few in 2^32 are a key; those few are drawn again.
        for (var d = origin; ; d = SHA256.HashData(d))
        {
            try
            {
                return ECDsa.Create(new ECParameters { Curve = ECCurve.NamedCurves.nistP256, D = d });
            }
            catch (CryptographicException)
            {
                continue;
            }
        }
    }

    /// <summary>The digest by which an access token is found.</summary>
    public static string DigestOf(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));

    /// <summary>A signed ticket that stands for a session and says nothing else.</summary>
    public string TicketOf(Guid session, byte purpose)
    {
        Span<byte> bytes = stackalloc byte[49];
        Write(session, purpose, bytes);
        return System.Buffers.Text.Base64Url.EncodeToString(bytes);
    }

    /// <summary>The session of a ticket that is well formed, signed by us and of that purpose.</summary>
    public bool TryReadTicket(string text, byte purpose, out Guid session)
    {
        session = default;
        Span<byte> bytes = stackalloc byte[49];
        if (text.Length != 66 || !System.Buffers.Text.Base64Url.IsValid(text)
            || !System.Buffers.Text.Base64Url.TryDecodeFromChars(text, bytes, out var written) || written != 49)
        {
            return false;
        }

        Span<byte> right = stackalloc byte[49];
        session = new Guid(bytes[..16], true);
        Write(session, purpose, right);
        return CryptographicOperations.FixedTimeEquals(bytes, right);
    }

    private void Write(Guid session, byte purpose, Span<byte> bytes)
    {
        session.TryWriteBytes(bytes, true, out _);
        bytes[16] = purpose;
        HMACSHA256.HashData(ticket, bytes[..17], bytes[17..]);
    }

    private static byte[] FromFile(string path)
    {
        if (!File.Exists(path))
        {
            // Whole or not at all: a start that is killed here leaves no half of a key behind that no later start could read.
            Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(path))!, DataFolder.Private);
            var fresh = $"{path}.{Guid.NewGuid():N}";
            using (var file = new FileStream(fresh, new FileStreamOptions
            { Mode = FileMode.CreateNew, Access = FileAccess.Write, UnixCreateMode = DataFolder.OwnFile }))
            {
                file.Write(Encoding.ASCII.GetBytes(Convert.ToBase64String(RandomNumberGenerator.GetBytes(32))));
                file.Flush(true);
            }

            try
            {
                File.Move(fresh, path, false);
            }
            catch (IOException) when (File.Exists(path))
            {
                // Another process that starts at the same time was faster; its key is the key.
                File.Delete(fresh);
            }
        }

        return Convert.FromBase64String(File.ReadAllText(path).Trim());
    }
}
