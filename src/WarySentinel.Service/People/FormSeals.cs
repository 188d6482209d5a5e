using System.Globalization;
using System.Numerics;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.DataProtection;
using WarySentinel.Core;

namespace WarySentinel.Service.People;

/// <summary>What a form was given out with.</summary>
/// <param name="At">When.</param>
/// <param name="Bits">How much work its browser is asked for: so many leading bits of a digest have to be nought.</param>
/// <param name="Text">The seal itself.</param>
public sealed record FormSeal(DateTimeOffset At, int Bits, string Text);

/// <summary>
/// Seals that forms are given out with: how long somebody looked at one can be told when it comes back, and each counts once. With the seal goes a little
/// work for the browser; the more forms come in, the more.
/// </summary>
public sealed class FormSeals(IDataProtectionProvider protection, TimeProvider time)
{
    /// <summary>How long a form may be looked at.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromHours(12);

    private const int LeastBits = 13;
    private const int MostBits = 19;
    private const int QuietMinute = 20;
    private const int MostUsed = 100_000;
    private readonly IDataProtector seal = protection.CreateProtector("form-seal");
    private readonly Recent<bool> used = new(MostUsed);
    private readonly Queue<DateTimeOffset> lately = new();
    private readonly Lock counting = new();

    /// <summary>How long a form has to be looked at where the browser has no scripts; longer, the more forms come in.</summary>
    public TimeSpan Pace => TimeSpan.FromSeconds(Math.Min(60, 6 * (1 + Above)));

    /// <summary>Gives out a seal.</summary>
    public FormSeal Issue()
    {
        var (now, bits) = (time.GetUtcNow(), Math.Min(MostBits, LeastBits + Above));
        var text = string.Create(CultureInfo.InvariantCulture, $"{now.UtcTicks}|{bits}|{Convert.ToHexString(RandomNumberGenerator.GetBytes(8))}");
        return new FormSeal(now, bits, seal.Protect(text));
    }

    /// <summary>The seal that came back; null where it is none of ours, too old, or was used already.</summary>
    public FormSeal? Take(string? text)
    {
        try
        {
            return text is { Length: > 0 and < 1000 } && seal.Unprotect(text).Split('|') is [var at, var bits, _]
                && new DateTimeOffset(long.Parse(at, CultureInfo.InvariantCulture), TimeSpan.Zero) is var from && time.GetUtcNow() - from < Lasts
                && !used.TryGet(text, out _) ? new FormSeal(from, int.Parse(bits, CultureInfo.InvariantCulture), text) : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    /// <summary>Counts a form that was taken; its seal counts no longer.</summary>
    public void Use(FormSeal taken)
    {
        used.Keep(taken.Text, true);
        lock (counting)
        {
            lately.Enqueue(time.GetUtcNow());
            Trim();
        }
    }

    /// <summary>Whether the work was done: the digest of seal and answer begins with so many noughts (SHA-256).</summary>
    public static bool IsDone(FormSeal taken, string work)
    {
        if (work.Length is 0 or > 20)
        {
            return false;
        }

        var digest = SHA256.HashData(Encoding.UTF8.GetBytes(taken.Text + ":" + work));
        return BitOperations.LeadingZeroCount(System.Buffers.Binary.BinaryPrimitives.ReadUInt32BigEndian(digest)) >= taken.Bits;
    }

    /// <summary>How often the forms of the last minute double what is quiet.</summary>
    private int Above
    {
        get
        {
            lock (counting)
            {
                Trim();
                return Math.Max(0, (int)Math.Ceiling(Math.Log2(Math.Max(1, lately.Count) / (double)QuietMinute)));
            }
        }
    }

    private void Trim()
    {
        var since = time.GetUtcNow() - TimeSpan.FromMinutes(1);
        while (lately.TryPeek(out var first) && first < since)
        {
            lately.Dequeue();
        }
    }
}
