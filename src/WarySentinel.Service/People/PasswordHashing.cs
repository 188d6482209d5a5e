using System.Security.Cryptography;
using System.Text;
using System.Threading.RateLimiting;
using NSec.Cryptography;
using WarySentinel.Core;

namespace WarySentinel.Service.People;

/// <summary>Too many slow hashes wait already.</summary>
public sealed class BusyException() : Exception("Too many sign-ins wait already.");

/// <summary>
/// Argon2id (RFC 9106) with 19 MiB and 2 passes, on a bounded queue: so many run at once, so many may wait, the rest are turned away.
/// Hashes are kept as PHC strings.
/// </summary>
public sealed class PasswordHashing : IDisposable
{
    private const int MostAtOnce = 200;
    private const int KibiBytes = 19 * 1024;
    private const int Passes = 2;
    private const int HashBytes = 32;
    private static readonly Argon2id Algorithm =
        PasswordBasedKeyDerivationAlgorithm.Argon2id(new Argon2Parameters { DegreeOfParallelism = 1, MemorySize = KibiBytes, NumberOfPasses = Passes });

    private readonly ConcurrencyLimiter queue;
    private readonly int waiting;
    private readonly string nobody;
    private long proved;

    /// <summary>Makes the queue.</summary>
    public PasswordHashing(ServiceOptions options)
    {
        var workers = options.HashWorkers > 0 ? options.HashWorkers : Math.Max(1, Environment.ProcessorCount - 1);
        queue = new ConcurrencyLimiter(new ConcurrencyLimiterOptions
        {
            PermitLimit = workers,
            QueueLimit = waiting = Math.Max(0, MostAtOnce - workers),
            QueueProcessingOrder = QueueProcessingOrder.OldestFirst,
        });
        nobody = Written(RandomNumberGenerator.GetBytes(Algorithm.MaxSaltSize), RandomNumberGenerator.GetBytes(HashBytes));
    }

    /// <summary>How many passwords were tried against a hash since the start, whether or not there was one.</summary>
    public long Proved => Interlocked.Read(ref proved);

    /// <summary>Whether nobody more could wait for a turn at this moment.</summary>
    public bool IsFull => queue.GetStatistics() is { CurrentAvailablePermits: 0 } now && now.CurrentQueuedCount >= waiting;

    /// <summary>Hashes a password. Throws <see cref="BusyException"/> when the queue is full.</summary>
    public Task<string> HashAsync(string password, CancellationToken stop) => RunAsync(() => Make(Spelling.OfPassword(password)), stop);

    /// <summary>Hashes a password, or says that too many wait.</summary>
    /// <param name="password">The password.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="before">What is looked at first, as slow as a hash: it has its turn with it.</param>
    public async Task<Outcome<Secret>> TryHashAsync(string password, CancellationToken stop, Func<Problem?>? before = null)
    {
        try
        {
            return await RunAsync<Outcome<Secret>>(() => before?.Invoke() is { } problem ? problem : (Secret)Make(Spelling.OfPassword(password)), stop);
        }
        catch (BusyException)
        {
            return Problem.Of(ProblemKind.TooMany, "busy");
        }
    }

    /// <summary>
    /// Whether the password is the one that was hashed. Takes as long where there is no hash. Throws <see cref="BusyException"/> when the
    /// queue is full.
    /// </summary>
    public Task<bool> ProvesAsync(string password, string? hash, CancellationToken stop) =>
        RunAsync(() => ProvesAnySpelling(password, hash ?? nobody) && hash is not null, stop);

    /// <inheritdoc/>
    public void Dispose() => queue.Dispose();

    private async Task<T> RunAsync<T>(Func<T> work, CancellationToken stop)
    {
        using var turn = await queue.AcquireAsync(1, stop);
        return turn.IsAcquired ? await Task.Run(work, stop) : throw new BusyException();
    }

    /// <summary>Hashes of earlier versions are of the letters as they were typed.</summary>
    private bool ProvesAnySpelling(string typed, string phc) =>
        Spelling.OfPassword(typed) is var password && (Proves(password, phc) || (password != typed && Proves(typed, phc)));

    private static string Make(string password)
    {
        var salt = RandomNumberGenerator.GetBytes(Algorithm.MaxSaltSize);
        return Written(salt, Algorithm.DeriveBytes(Encoding.UTF8.GetBytes(password), salt, HashBytes));
    }

    private static string Written(byte[] salt, byte[] hash) => $"$argon2id$v=19$m={KibiBytes},t={Passes},p=1${Trimmed(salt)}${Trimmed(hash)}";

    /// <summary>Whether a hash is made as ours are made now; any other is made anew when its password is known.</summary>
    public static bool IsOurs(string hash) => hash.StartsWith($"$argon2id$v=19$m={KibiBytes},t={Passes},p=1$", StringComparison.Ordinal);

    private bool Proves(string password, string phc)
    {
        Interlocked.Increment(ref proved);
        var parts = phc.Split('$');
        if (!IsOurs(phc) && ForeignHashes.IsKnown(phc))
        {
            return ForeignHashes.Proves(password, phc);
        }

        if (parts.Length != 6 || parts[1] != "argon2id" || parts[2] != "v=19")
        {
            return false;
        }

        try
        {
            var costs = parts[3].Split(',').Select(c => c.Split('='))
                .ToDictionary(c => c[0], c => long.Parse(c[1], System.Globalization.CultureInfo.InvariantCulture));
            var algorithm = PasswordBasedKeyDerivationAlgorithm.Argon2id(
                new Argon2Parameters { DegreeOfParallelism = (int)costs["p"], MemorySize = costs["m"], NumberOfPasses = costs["t"] });
            var kept = Padded(parts[5]);
            var made = algorithm.DeriveBytes(Encoding.UTF8.GetBytes(password), Padded(parts[4]), kept.Length);
            return kept.Length > 0 && CryptographicOperations.FixedTimeEquals(kept, made);
        }
        catch (Exception broken) when (broken is FormatException or OverflowException or ArgumentException or KeyNotFoundException or IndexOutOfRangeException)
        {
            // A hash that cannot be read proves nothing.
            return false;
        }
    }

    private static string Trimmed(byte[] bytes) => Convert.ToBase64String(bytes).TrimEnd('=');

    private static byte[] Padded(string text) => Convert.FromBase64String(text + new string('=', (4 - (text.Length % 4)) % 4));
}
