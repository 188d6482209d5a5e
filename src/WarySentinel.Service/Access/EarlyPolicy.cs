using WarySentinel.Storage;

namespace WarySentinel.Service.Access;

/// <summary>Reads the policy while the service is still being put together: of 100,000 items the longest part of a start.</summary>
internal static class EarlyPolicy
{
    /// <summary>
    /// What is stored, if the tables are as this version has them. Null where anything is amiss: it is then read, and told of, where it is waited for.
    /// </summary>
    public static Task<StoredPolicy?> ReadAsync(ServiceOptions options) => Task.Run(async () =>
    {
        // Long before the tables are known to be as they should: it needs nothing but a connection.
        var items = Task.Run(() => EarlyItems.ReadAsync(options.Provider, Hosting.ConnectionOf(options)));
        try
        {
            using var store = Hosting.OpenStore(options, TimeProvider.System);
            return await store.IsCurrentAsync() ? await store.LoadPolicyAsync(await items, CancellationToken.None) : null;
        }
        catch (Exception)
        {
            return null;
        }
    });
}
