namespace WarySentinel.Contract.Access;

/// <summary>One step of an explanation: a gate, the way it reaches what is asked for, and what it says.</summary>
public sealed record ExplanationStep(string? Gate, string Title, string Way, string? Sentence, string Verdict, bool? Admitted);
