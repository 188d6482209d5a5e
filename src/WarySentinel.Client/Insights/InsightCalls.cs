using WarySentinel.Contract.Insights;

namespace WarySentinel.Client;

/// <summary>What ends soon.</summary>
public sealed partial class SentinelClient
{
    /// <summary>What ends within so many days, soonest first.</summary>
    public async Task<EndsView> EndsAsync(int days, int limit, CancellationToken cancellationToken) => (await GetAsync<EndsView>(
        string.Create(System.Globalization.CultureInfo.InvariantCulture, $"ends?days={days}&limit={limit}"), cancellationToken)).Value;
}
