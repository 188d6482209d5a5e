using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using WarySentinel.Core.People.Forms;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// Files of forms that were not taken, because something else in them was wrong: kept for a while under a secret that only their page knows, so that nobody
/// has to choose them again. A browser cannot put a file back into a form (HTML Standard §4.10.5.1.17).
/// </summary>
public sealed class PendingUploads(Store store, TimeProvider time)
{
    /// <summary>How long a file is kept.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromHours(2);

    private const int MostOfNetwork = 20;
    private const long MostBytes = 128L << 20;
    private const string Turn = "uploads";
    private static readonly TimeSpan Every = TimeSpan.FromHours(1);

    /// <summary>Now.</summary>
    public DateTimeOffset Now => time.GetUtcNow();

    /// <summary>Keeps a file; gives its secret, or null where too much is kept already.</summary>
    public async Task<string?> KeepAsync(AnswerFile file, string network, CancellationToken stop)
    {
        var secret = Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(32));
        return await store.KeepUploadAsync(
            new PendingUpload(DigestOf(secret), file.Name, file.Content.ToArray(), network, Now), MostOfNetwork, MostBytes, stop) ? secret : null;
    }

    /// <summary>The file of a secret, read for a field as if it were sent now; null where there is none, or the field does not take it.</summary>
    public async Task<AnswerFile?> FindAsync(string? secret, Field field, CancellationToken stop)
    {
        var kept = secret is { Length: > 0 and < 100 } ? await store.UploadAsync(DigestOf(secret), Now - Lasts, stop) : null;
        return kept is not null && AnswerFile.Read(field, kept.Name, kept.Content, Now) is { IsGood: true } read ? read.Value : null;
    }

    /// <summary>Lets go of files that were taken.</summary>
    public Task DropAsync(IEnumerable<string> secrets, CancellationToken stop) =>
        secrets.Select(DigestOf).ToList() is { Count: > 0 } digests ? store.DropUploadsAsync(digests, Now - Lasts, stop) : Task.CompletedTask;

    /// <summary>Whether an hour has passed.</summary>
    public Task<bool> IsDueAsync(CancellationToken stop) => store.IsTurnFreeAsync(Turn, Now - Every, stop);

    /// <summary>Drops what nobody asked for again, once an hour, on one machine.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        if (await store.TakeTurnAsync(Turn, Now - Every, stop))
        {
            await store.DropUploadsAsync([], Now - Lasts, stop);
        }
    }

    private static string DigestOf(string secret) => Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(secret)));
}
