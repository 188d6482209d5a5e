namespace WarySentinel.Core;

/// <summary>Wrong tries under one name, and when the last was.</summary>
public readonly record struct WrongTries(int Wrong, DateTimeOffset Last);
