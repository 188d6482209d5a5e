namespace WarySentinel.Core.Letters;

/// <summary>A message on its way to one person.</summary>
/// <param name="Id">Its name; a message is sent at most once under it.</param>
/// <param name="To">The e-mail address.</param>
/// <param name="Subject">The subject; holds no secret.</param>
/// <param name="Body">The text, sealed by the service: it may hold secrets, and is dropped once it is sent.</param>
/// <param name="At">When it was written.</param>
/// <param name="Kind">What it is (<see cref="LetterKind.Key"/>).</param>
/// <param name="Urgency">How soon it has to be out.</param>
public sealed record OutgoingMessage(Guid Id, string To, string Subject, string Body, DateTimeOffset At, string Kind, Urgency Urgency);

/// <summary>Puts a message on its way.</summary>
public sealed record MessageQueued(OutgoingMessage Message) : Change.OfPeople;
