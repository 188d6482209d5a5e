using WarySentinel.Core.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>What a typed password opened.</summary>
/// <param name="Unlock">What is kept in the session.</param>
/// <param name="Gate">The gate.</param>
public sealed record Opened(StoredUnlock Unlock, Gate Gate);
